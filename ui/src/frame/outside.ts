import { team } from '../api/base'
import type { Notice } from '../api/gen/journal'

/** Where a notification leads: to what it is about, or the inbox. */
export const leads = (n: Notice) =>
  n.followUp ? '/follow-ups/' + encodeURIComponent(n.followUp) : n.about ? '/c/' + n.about : '/'

/** The same of something in the box of a team, from the page of another: then the whole address. */
export const leadsAway = (n: Notice) => (n.box && n.box !== team ? `/in/${n.box}${leads(n)}` : '')

/**
 * Shows a notification outside the page, where the user has allowed that; several windows show one. Pressing it brings
 * the page to the front and does that. Without the permission the page alone says it.
 */
export function notifyOutside(text: string, open: () => void) {
  if (!('Notification' in window) || Notification.permission !== 'granted') return
  try {
    const n = new Notification('Ebbe', { body: text, tag: text })
    n.onclick = () => {
      window.focus()
      open()
      n.close()
    }
  } catch {
    // some browsers on telephones let a page show none
  }
}

import { team } from '../api/base'
/** A command as the sheet of keys, the palette and Setup know it. */
export interface Known {
  id: string
  name: string
  keys: string[] // its usual keys, as KeyboardEvent.key has them, with "Ctrl+" and "Shift+" before
  where:
    | 'Deciding'
    | 'In a list'
    | 'A file'
    | 'Choosing many'
    | 'Sitting'
    | 'Follow-ups'
    | 'One by one'
    | 'Going places'
    | 'Everywhere'
  fixed?: boolean // its key cannot be changed
}

// Decisions have the digits, what is near to one has it with Shift; what chooses many has Shift and an arrow; places
// go by a letter of their name.
const ofTeam: Known[] = team
  ? [
      { id: 'take', name: 'Take it, or give it back', keys: ['t'], where: 'Deciding' },
      { id: 'give', name: 'Give it to somebody of the team', keys: ['4'], where: 'Deciding' },
      { id: 'comment', name: 'Comment: say something to the team', keys: ['c'], where: 'Deciding' },
      { id: 'follow', name: 'Follow it, or stop', keys: ['Shift+c'], where: 'Deciding' },
    ]
  : [{ id: 'share', name: 'Share it with a team', keys: ['Shift+t'], where: 'Deciding' }]

const list: Known[] = [
  { id: 'bin', name: 'Bin', keys: ['1'], where: 'Deciding' },
  { id: 'archive', name: 'Archive', keys: ['2'], where: 'Deciding' },
  { id: 'reply', name: 'Reply: begin an answer', keys: ['3'], where: 'Deciding' },
  { id: 'forward', name: 'Forward it', keys: ['F3'], where: 'Deciding' },
  {
    id: 'pass-on',
    name: 'Hand over: forward it and keep track',
    keys: team ? [] : ['4'], // in a team it is given to somebody of it instead
    where: 'Deciding',
  },
  ...ofTeam,
  {
    id: 'snooze',
    name: 'Snooze',
    keys: ['5'],
    where: 'Deciding',
  },
  {
    id: 'follow-up',
    name: 'Make a follow-up',
    keys: ['6'],
    where: 'Deciding',
  },
  {
    id: 'flag',
    name: 'Flag: today, tomorrow, this week, next week',
    keys: [';'],
    where: 'Deciding',
  },
  {
    id: 'calendar',
    name: 'Put it into the calendar',
    keys: ['7'],
    where: 'Deciding',
  },
  {
    id: 'wait',
    name: 'Wait for an answer to it',
    keys: ['Shift+a'],
    where: 'Deciding',
  },
  {
    id: 'is-answer',
    name: 'Yes, it is the answer I wait for',
    keys: ['y'],
    where: 'Deciding',
  },
  {
    id: 'no-answer',
    name: 'No, it is not the answer: keep waiting',
    keys: ['Shift+y'],
    where: 'Deciding',
  },
  {
    id: 'bring-back',
    name: 'Bring back to the inbox',
    keys: ['9'],
    where: 'Deciding',
  },
  {
    id: 'star',
    name: 'Star, or take the star away',
    keys: ['*'],
    where: 'Deciding',
  },
  {
    id: 'important',
    name: 'Important',
    keys: ['Ctrl+ArrowUp'],
    where: 'Deciding',
  },
  {
    id: 'unimportant',
    name: 'Not important',
    keys: ['Ctrl+ArrowDown'],
    where: 'Deciding',
  },
  {
    id: 'to-stream',
    name: 'Put it into another stream',
    keys: ['Ctrl+ArrowRight'],
    where: 'Deciding',
  },
  { id: 'silence', name: 'Silence this conversation', keys: ['Shift+0'], where: 'Deciding' },
  { id: 'never', name: 'Never again: this sender or list', keys: ['Shift+Delete'], where: 'Deciding' },
  { id: 'junk', name: 'Call it junk', keys: ['Ctrl+Delete'], where: 'Deciding' },
  { id: 'block', name: 'Block its sender, or their domain', keys: [], where: 'Deciding' },
  {
    id: 'never-such',
    name: 'Never again: a domain, or what is such',
    keys: [],
    where: 'Deciding',
  },
  {
    id: 'make-rule',
    name: 'Make a rule for its like',
    keys: [],
    where: 'Deciding',
  },
  { id: 'label', name: 'Label', keys: ['='], where: 'Deciding' },
  { id: 'note', name: 'Write a note on it', keys: ['Shift+3'], where: 'Deciding' },
  { id: 'rename', name: 'Call it something else', keys: ['Shift+4'], where: 'Deciding' },
  { id: 'unread', name: 'Mark unread', keys: ['Shift+9'], where: 'Deciding' },
  { id: 'read', name: 'Mark read', keys: ['Shift+1'], where: 'Deciding' },
  {
    id: 'leave-list',
    name: 'Leave the list it came from',
    keys: ['Shift+F3'],
    where: 'Deciding',
  },
  {
    id: 'its-history',
    name: 'What was done with it',
    keys: ['F4'],
    where: 'Deciding',
  },
  {
    id: 'let-through',
    name: 'Always let its sender through',
    keys: ['Shift+F4'],
    where: 'Deciding',
  },
  {
    id: 'rest-follow-up',
    name: 'While replying: make the rest a follow-up',
    keys: ['F2'],
    where: 'Deciding',
  },
  { id: 'short-answer', name: 'Short answer', keys: ['Shift+F2'], where: 'Deciding' },
  { id: 'next-asked', name: 'Next question', keys: ['Ctrl+,'], where: 'Deciding' },

  { id: 'next', name: 'Next', keys: ['ArrowDown'], where: 'In a list', fixed: true },
  { id: 'previous', name: 'Previous', keys: ['ArrowUp'], where: 'In a list', fixed: true },
  { id: 'first', name: 'First', keys: ['Home'], where: 'In a list', fixed: true },
  { id: 'last', name: 'Last', keys: ['End'], where: 'In a list', fixed: true },
  { id: 'open', name: 'Open on its own', keys: ['Enter'], where: 'In a list', fixed: true },
  { id: 'back', name: 'Back', keys: ['Escape'], where: 'In a list', fixed: true },
  { id: 'keep-open', name: 'Keep it open as a tab, or close its tab', keys: ['F6'], where: 'In a list' },
  { id: 'next-open', name: 'The next one kept open', keys: ['Ctrl+F6'], where: 'In a list' },
  { id: 'previous-open', name: 'The one kept open before', keys: ['Ctrl+Shift+F6'], where: 'In a list' },
  { id: 'page-down', name: 'Page down', keys: [' ', 'PageDown'], where: 'In a list', fixed: true },
  { id: 'page-up', name: 'Page up', keys: ['Shift+ ', 'PageUp'], where: 'In a list', fixed: true },
  {
    id: 'next-place',
    name: 'Next place of what was found',
    keys: ['Shift+n'],
    where: 'In a list',
  },
  {
    id: 'previous-place',
    name: 'Place before',
    keys: ['Shift+p'],
    where: 'In a list',
  },
  {
    id: 'next-file',
    name: 'Open its files beside it, one after the other',
    keys: ['Ctrl+Enter'],
    where: 'In a list',
  },
  {
    id: 'previous-file',
    name: 'The file before',
    keys: [],
    where: 'In a list',
  },
  {
    id: 'all-files',
    name: 'All files of this conversation',
    keys: [],
    where: 'In a list',
  },
  {
    id: 'print',
    name: 'A clean page of this conversation, to print',
    keys: [],
    where: 'In a list',
  },
  { id: 'as-text', name: 'Save this conversation as text', keys: [], where: 'In a list' },
  { id: 'copy-link', name: 'Copy a link to this message', keys: [], where: 'In a list' },
  { id: 'turn-on', name: 'Next page of a file', keys: ['ArrowRight'], where: 'A file' },
  { id: 'turn-back', name: 'Page before', keys: ['ArrowLeft'], where: 'A file' },
  {
    id: 'larger',
    name: 'Larger text of messages',
    keys: ['>'],
    where: 'In a list',
  },
  {
    id: 'smaller',
    name: 'Smaller text of messages',
    keys: ['<'],
    where: 'In a list',
  },
  { id: 'fold', name: 'Fold this group', keys: ['ArrowLeft'], where: 'In a list' },
  { id: 'unfold', name: 'Unfold the group before', keys: ['ArrowRight'], where: 'In a list' },
  {
    id: 'arrange',
    name: 'Arrange the inbox: group, sort, filter',
    keys: ['-'],
    where: 'In a list',
  },

  {
    id: 'close-lines',
    name: 'Close or roomy lines',
    keys: [':'],
    where: 'In a list',
  },
  {
    id: 'choose',
    name: 'Choose this one too, or not',
    keys: ['Shift+Enter'],
    where: 'Choosing many',
  },
  { id: 'choose-down', name: 'Choose on downwards', keys: ['Shift+ArrowDown'], where: 'Choosing many', fixed: true },
  { id: 'choose-up', name: 'Choose on upwards', keys: ['Shift+ArrowUp'], where: 'Choosing many', fixed: true },
  {
    id: 'choose-sender',
    name: 'Choose all from this sender',
    keys: ['Shift+ArrowRight'],
    where: 'Choosing many',
  },
  {
    id: 'choose-alike',
    name: 'Choose all like this: same sender, same shape of subject',
    keys: ['Shift+ArrowLeft'],
    where: 'Choosing many',
  },
  { id: 'choose-group', name: 'Choose all in this group', keys: ['Shift+End'], where: 'Choosing many' },
  {
    id: 'choose-all',
    name: 'Choose all shown',
    keys: ['Ctrl+a'],
    where: 'Choosing many',
  },
  {
    id: 'choose-none',
    name: 'Choose none',
    keys: ['Escape'],
    where: 'Choosing many',
    fixed: true,
  },
  {
    id: 'join',
    name: 'Join what is chosen into one conversation',
    keys: [],
    where: 'Choosing many',
  },
  {
    id: 'rest',
    name: 'The rest is done: archive all but the starred',
    keys: ['Shift+2'],
    where: 'Choosing many',
  },
  {
    id: 'fresh-start',
    name: 'Fresh start: archive all before a date',
    keys: ['Shift+5'],
    where: 'Choosing many',
  },

  {
    id: 'keep-list',
    name: 'Save what is shown as a list beside the inbox',
    keys: ['Shift+6'],
    where: 'In a list',
  },

  { id: 'sit', name: 'Begin a sitting', keys: ['8'], where: 'Sitting' },
  { id: 'leave', name: 'Leave it undecided', keys: ['8'], where: 'Sitting' },
  { id: 'end-sitting', name: 'End the sitting', keys: ['F8'], where: 'Sitting' },

  { id: 'drop', name: 'Cancel it', keys: ['1'], where: 'Follow-ups' },
  { id: 'finish', name: 'Finish it', keys: ['2'], where: 'Follow-ups' },
  { id: 'answer', name: 'Reply from it', keys: ['3'], where: 'Follow-ups' },
  {
    id: 'hand-over',
    name: 'Wait for somebody',
    keys: ['4'],
    where: 'Follow-ups',
  },
  {
    id: 'keep-waiting',
    name: 'Keep waiting: what has come was no answer',
    keys: ['Shift+a'],
    where: 'Follow-ups',
  },
  { id: 'put-off', name: 'Put it off', keys: ['5'], where: 'Follow-ups' },
  { id: 'change', name: 'Change it', keys: ['6'], where: 'Follow-ups' },
  { id: 'reopen', name: 'Open it again', keys: ['9'], where: 'Follow-ups' },
  { id: 'open-followup', name: 'Open it beside its mail', keys: ['Enter'], where: 'Follow-ups', fixed: true },
  { id: 'stage-on', name: 'On to the next stage', keys: ['Shift+ArrowRight'], where: 'Follow-ups' },
  { id: 'stage-back', name: 'Back to the stage before', keys: ['Shift+ArrowLeft'], where: 'Follow-ups' },
  { id: 'lane-right', name: 'To the group on the right', keys: ['ArrowRight'], where: 'Follow-ups', fixed: true },
  { id: 'lane-left', name: 'To the group on the left', keys: ['ArrowLeft'], where: 'Follow-ups', fixed: true },
  { id: 'next-view', name: 'Next way of arranging them', keys: ['Shift+PageDown'], where: 'Follow-ups' },
  { id: 'filter', name: 'Filter them', keys: ['-'], where: 'Follow-ups' },
  {
    id: 'one-by-one',
    name: 'Go through them one by one',
    keys: ['8'],
    where: 'Follow-ups',
  },
  { id: 'leave-open', name: 'Leave it as it is', keys: ['8'], where: 'One by one' },

  {
    id: 'go-day',
    name: 'The day at a glance',
    keys: ['Shift+Home'],
    where: 'Going places',
  },
  { id: 'go-inbox', name: 'Go to the inbox', keys: ['i'], where: 'Going places' },
  {
    id: 'go-senders',
    name: 'Go to the senders: who fills the inbox',
    keys: ['w'],
    where: 'Going places',
  },
  { id: 'go-followups', name: 'Go to the follow-ups', keys: ['f'], where: 'Going places' },
  {
    id: 'go-waiting',
    name: 'Go to Waiting: what others owe you',
    keys: ['a'],
    where: 'Going places',
  },
  {
    id: 'go-calendar',
    name: 'Go to the calendar week',
    keys: team ? ['k'] : ['c'], // there one comments with the other
    where: 'Going places',
  },
  {
    id: 'go-log',
    name: 'Go to the log of what was finished',
    keys: ['Shift+f'],
    where: 'Going places',
  },
  { id: 'go-later', name: 'Go to Later: what is snoozed', keys: ['l'], where: 'Going places' },
  {
    id: 'go-delivery',
    name: 'Go to Delivery: when mail comes',
    keys: ['d'],
    where: 'Going places',
  },
  { id: 'go-find', name: 'Find', keys: ['0'], where: 'Going places' },
  { id: 'go-numbers', name: 'Go to the numbers', keys: [], where: 'Going places' },
  {
    id: 'go-writing',
    name: 'Go to Writing: drafts, and what is on its way out',
    keys: ['o'],
    where: 'Going places',
  },
  { id: 'go-accounts', name: 'Go to the accounts', keys: ['m'], where: 'Going places' },
  { id: 'go-history', name: 'Go to the history', keys: ['h'], where: 'Going places' },
  {
    id: 'go-subscriptions',
    name: 'Go to the subscriptions',
    keys: [],
    where: 'Going places',
  },
  { id: 'go-junk', name: 'Look through junk', keys: [], where: 'Going places' },
  { id: 'go-facts', name: 'Parcels, bills and journeys', keys: [], where: 'Going places' },
  { id: 'go-rules', name: 'Go to the rules', keys: [], where: 'Going places' },
  {
    id: 'go-setup',
    name: 'Go to Setup',
    keys: [','],
    where: 'Going places',
  },

  { id: 'next-box', name: 'To the next box: your own, or a team’s', keys: ['b'], where: 'Going places' },
  { id: 'previous-box', name: 'To the box before', keys: ['Shift+b'], where: 'Going places' },
  { id: 'go-activity', name: 'Go to Activity', keys: ['v'], where: 'Going places' },
  { id: 'go-mine', name: 'Go to all that is yours', keys: ['Shift+v'], where: 'Going places' },

  { id: 'new-message', name: 'New message', keys: ['n'], where: 'Everywhere' },
  {
    id: 'write-down',
    name: 'Write a follow-up down',
    keys: ['+'],
    where: 'Everywhere',
  },
  { id: 'close-day', name: 'Close the day', keys: ['Shift+F8'], where: 'Everywhere' },
  {
    id: 'gate',
    name: 'Hold mail, or let it flow again',
    keys: ['Shift+7'],
    where: 'Everywhere',
  },
  {
    id: 'look-early',
    name: 'Look for one thing in what is held',
    keys: ['Shift+d'],
    where: 'Everywhere',
  },
  {
    id: 'hold-until',
    name: 'Hold mail by hand until…',
    keys: ['Shift+F7'],
    where: 'Everywhere',
  },
  { id: 'take-back', name: 'Take back the last decision', keys: ['Ctrl+z'], where: 'Everywhere' },
  {
    id: 'again',
    name: 'Do again what was taken back',
    keys: ['Ctrl+Shift+z', 'Ctrl+y'],
    where: 'Everywhere',
  },
  { id: 'palette', name: 'All commands by name', keys: ['Ctrl+k', '.'], where: 'Everywhere' },
  { id: 'keys', name: 'The keys', keys: ['?'], where: 'Everywhere' },
  { id: 'sign-out', name: 'Sign out', keys: ['F9'], where: 'Everywhere' },
]

export const known = list
const byID = new Map(list.map((k) => [k.id, k]))
export const knownOf = (id: string) => byID.get(id)

/** The keys of a command: the user's own, or the usual ones. */
export const keysOf = (id: string, own: Record<string, string>, usual?: string[]) =>
  own[id] !== undefined ? (own[id] ? [own[id]] : []) : (usual ?? byID.get(id)?.keys ?? [])

export const keyName = (key: string) =>
  key
    .replace('Ctrl+', 'Ctrl ')
    .replace('Shift+', 'Shift ')
    .replace('ArrowUp', '↑')
    .replace('ArrowDown', '↓')
    .replace('ArrowLeft', '←')
    .replace('ArrowRight', '→')
    .replace(/^ $/, 'Space')
    .replace(/ $/, ' Space')
    .replace('Shift  Space', 'Shift Space')
    .replace(/ ([a-z])$/, (_, c: string) => ' ' + c.toUpperCase())

const taken =
  /^(Tab|Escape|Enter|Shift\+Tab|Arrow\w+|Home|End|Page\w+| |Shift|Control|Alt|Meta|F1|F5|F6|F11|F12|Ctrl\+[twnrlqpsf])$/
/** Why a key cannot be given to a command, in a sentence, or nothing. */
export function refused(key: string) {
  if (taken.test(key)) return `“${keyName(key)}” belongs to the browser or to moving about. Choose another key.`
  return ''
}

/** Another command that has this key where both could be meant. */
export function clash(id: string, key: string, own: Record<string, string>) {
  const me = byID.get(id)
  const work = new Set(['Follow-ups', 'One by one'])
  const over = (k: Known) => k.where === 'A file' // it has the keys while one is open
  const apart = (a: Known, b: Known) =>
    over(a) ||
    over(b) ||
    (work.has(a.where) !== work.has(b.where) &&
      a.where !== 'Everywhere' &&
      b.where !== 'Everywhere' &&
      a.where !== 'Going places' &&
      b.where !== 'Going places')
  const pair = new Set(['sit', 'leave', 'one-by-one', 'leave-open'])
  return list.find(
    (k) => k.id !== id && keysOf(k.id, own).includes(key) && !(me && apart(me, k)) && !(pair.has(k.id) && pair.has(id)),
  )
}

import { EbbeError, told, unanswered } from '../../api/client'
import type { DraftChange, DraftView } from '../../api/desk'

export const REST = 400 // ms from one saving to the next

/** What a draft that is being written needs of the page around it. */
export interface Around {
  put: (id: number, change: DraftChange) => Promise<DraftView>
  /** Begins the same message anew: its draft was sent or deleted elsewhere. */
  begin: (draft: DraftView) => Promise<DraftView>
  /** Keeps what the program does not have yet in the browser; null: it has all of it. */
  keep: (id: number, unsaved: Unsaved | null) => void
  /** How long to wait before a program that could not be reached so many times is asked again. */
  pause: (times: number) => Promise<unknown>
  /** That many milliseconds. */
  rest: (ms: number) => Promise<unknown>
  newKey: () => string
}

/** A draft as it was typed, with what tells its changes from those of another window. */
export interface Unsaved {
  draft: DraftView
  version: number
  writer: string
  turn: number
}

/** How a draft stands. */
export interface DraftState {
  draft: DraftView
  savedAt: number // by the clock of the program; 0: never
  trouble: string // why what was typed last is not saved
  away: boolean // that is because the program cannot be reached: it is saved by itself
  apart: number // the draft that another window has changed, from which this one is kept apart
  anew: boolean // it was sent or deleted elsewhere, and goes on as another draft
}

export const changeOf = (d: DraftView) => ({
  account: d.account,
  to: d.to,
  cc: d.cc,
  bcc: d.bcc,
  subject: d.subject,
  text: d.text,
  rich: d.rich,
  bare: d.bare,
  receipt: d.receipt,
  named: d.named,
})

/**
 * A draft that is being written in this window. What is typed is in the browser at once and at the program within
 * 400 ms, in one request for all that was typed meanwhile. While the program cannot be reached it is asked again by
 * itself, also when nobody looks at the draft any more.
 */
export class Keeping {
  standing: DraftState
  version: number
  private listeners = new Set<() => void>()
  private saved: DraftView
  private refused: DraftView | undefined
  private writer: string
  private turn: number
  private running: Promise<void> | undefined
  private hurry = () => {}
  private attempts: (() => void)[] = [] // told after the next try, whatever came of it
  private given = false

  constructor(
    draft: DraftView,
    private around: Around,
    unsaved?: Unsaved,
  ) {
    this.saved = unsaved ? { ...draft } : draft
    this.version = unsaved?.version ?? draft.version
    this.writer = unsaved?.writer ?? around.newKey()
    this.turn = unsaved?.turn ?? 0
    this.standing = {
      draft: unsaved?.draft ?? draft,
      savedAt: draft.text ? draft.changed : 0,
      trouble: '',
      away: false,
      apart: 0,
      anew: false,
    }
    if (unsaved) void this.run()
  }

  subscribe = (l: () => void) => {
    this.listeners.add(l)
    return () => void this.listeners.delete(l)
  }
  snapshot = () => this.standing

  /** Whether the program does not have all of it. */
  get dirty() {
    return this.standing.draft !== this.saved
  }

  /** Whether it has been sent or thrown away. */
  get over() {
    return this.given
  }

  change(c: Partial<DraftView>) {
    this.stand({ draft: { ...this.standing.draft, ...c } })
    this.keepUnsaved()
    void this.run()
  }

  /** Takes what the program says of it; what was typed here and not saved stays. */
  take(draft: DraftView) {
    this.version = draft.version
    if (this.dirty) {
      this.saved = draft
      this.stand({ draft: { ...draft, ...changeOf(this.standing.draft) } })
    } else {
      this.saved = draft
      this.stand({ draft })
    }
  }

  /** Its files have changed. */
  files(files: DraftView['files']) {
    const clean = !this.dirty
    this.stand({ draft: { ...this.standing.draft, files } })
    if (clean) this.saved = this.standing.draft
  }

  /** Saves what is not saved, now; whether the program has all of it then. */
  async flush(): Promise<boolean> {
    this.refused = undefined
    while (this.dirty) {
      const tried = new Promise<void>((done) => this.attempts.push(done))
      void this.run()
      this.hurry()
      await tried
      if (this.standing.trouble) return false
    }
    return true
  }

  /** It has been sent or thrown away: nothing of it is kept any more. */
  forget() {
    this.given = true
    this.saved = this.standing.draft
    this.around.keep(this.standing.draft.id, null)
    this.hurry()
  }

  private stand(s: Partial<DraftState>) {
    this.standing = { ...this.standing, ...s }
    for (const l of this.listeners) l()
  }

  private keepUnsaved() {
    const { draft } = this.standing
    this.around.keep(
      draft.id,
      this.dirty ? { draft, version: this.version, writer: this.writer, turn: this.turn } : null,
    )
  }

  private run(): Promise<void> {
    this.running ??= this.save().finally(() => {
      this.running = undefined
    })
    return this.running
  }

  private async save() {
    for (let times = 0; this.dirty && this.standing.draft !== this.refused && !this.given;) {
      await this.resting()
      if (this.given) break
      const sent = this.standing.draft
      this.turn++
      this.keepUnsaved() // with its turn: what comes late from here is known for it
      try {
        const v = await this.around.put(sent.id, {
          ...changeOf(sent),
          version: this.version,
          writer: this.writer,
          turn: this.turn,
        })
        times = 0
        this.has(sent, v)
      } catch (e) {
        if (unanswered(e)) {
          this.stand({ trouble: told(e), away: true })
          this.tried()
          await Promise.race([this.around.pause(times++), this.hurried()])
        } else if (e instanceof EbbeError && e.type === 'not-found') await this.beginAnew(sent)
        else {
          this.refused = sent
          this.stand({ trouble: told(e), away: false })
        }
      }
      this.tried()
    }
    this.tried()
  }

  /** The program has that. */
  private has(sent: DraftView, v: DraftView) {
    this.version = v.version
    this.moveTo(v.id)
    const same = JSON.stringify(changeOf(this.standing.draft)) === JSON.stringify(changeOf(sent))
    const draft = { ...this.standing.draft, id: v.id }
    if (same) this.saved = draft
    this.stand({ savedAt: v.changed, trouble: '', away: false, draft, ...(v.apart ? { apart: v.apart } : {}) })
    this.keepUnsaved()
  }

  private async beginAnew(sent: DraftView) {
    try {
      const v = await this.around.begin(sent)
      this.version = v.version
      this.moveTo(v.id)
      this.stand({ anew: true, draft: { ...this.standing.draft, id: v.id, files: v.files } })
    } catch (e) {
      if (!unanswered(e)) {
        this.refused = this.standing.draft
        this.stand({ trouble: told(e), away: false })
      }
    }
  }

  /** It is another draft from now on: what is kept of it is kept for that. */
  private moveTo(id: number) {
    if (id !== this.standing.draft.id) this.around.keep(this.standing.draft.id, null)
  }

  private tried() {
    for (const done of this.attempts.splice(0)) done()
  }

  private hurried = () => new Promise<void>((go) => (this.hurry = go))
  private resting() {
    return this.attempts.length ? Promise.resolve() : Promise.race([this.around.rest(REST), this.hurried()])
  }
}

import { EbbeError } from '../api/client'
import type { Decided } from '../api/gen/journal'

/** Something decided on its way to the program; its key makes it count once, however often it is sent. */
export interface Sent {
  path: string
  body: unknown
  key: string
}

/** What the decisions need of the page around them. */
export interface Around {
  post: (path: string, body: unknown, key: string) => Promise<Decided>
  /** Keeps what is still on its way for the page that comes after this one. */
  keep: (list: Sent[]) => void
  /** How long to wait before a program that could not be reached is asked again. */
  pause: () => Promise<unknown>
  newKey: () => string
  /** How many wait for a program that cannot be reached. */
  waiting: (n: number) => void
}

/** What becomes of one of them: exactly one of the two is called, once. */
export interface Outcome {
  done: (decided: Decided) => void
  refused: (error: unknown) => void
}

/**
 * Decisions are sent one after the other, in the order in which they were made, each until the program has
 * answered or refused it. While the program cannot be reached they wait and are kept; what is refused stops none
 * of those behind it.
 */
export class Decisions {
  private line: Sent[] = []
  private chain: Promise<unknown> = Promise.resolve()
  private own = new Set<string>()
  private kept = false // whether something is kept for the next page

  constructor(private around: Around) {}

  /** How many the program has not answered yet. */
  get pending() {
    return this.line.length
  }

  /** When all that was decided until now has been answered. */
  get settled(): Promise<unknown> {
    return this.chain
  }

  /** Whether a change the program announces was made here; each is told once. */
  wasOwn(key: string) {
    return this.own.delete(key)
  }

  /** Sends again what an earlier page has kept. */
  resume(list: Sent[], outcome: (sent: Sent) => Outcome) {
    this.kept = list.length > 0
    for (const s of list) void this.send(s.path, s.body, outcome(s), s.key)
  }

  send(path: string, body: unknown, outcome: Outcome, key = this.around.newKey()): Promise<Decided | null> {
    const item = { path, body, key }
    this.own.add(key)
    this.line.push(item)
    const task = this.chain.then(() => this.untilAnswered(item, outcome))
    this.chain = task
    return task
  }

  private async untilAnswered(item: Sent, outcome: Outcome): Promise<Decided | null> {
    for (;;) {
      try {
        const decided = await this.around.post(item.path, item.body, item.key)
        this.leave(item)
        outcome.done(decided)
        return decided
      } catch (e) {
        if (!(e instanceof EbbeError && e.type === 'unreachable')) {
          this.leave(item)
          outcome.refused(e)
          return null
        }
        this.kept = true
        this.around.waiting(this.line.length)
        this.around.keep(this.line)
        await this.around.pause()
      }
    }
  }

  private leave(item: Sent) {
    this.line = this.line.filter((s) => s !== item)
    if (!this.kept) return
    this.around.keep(this.line)
    this.around.waiting(this.line.length)
    this.kept = this.line.length > 0
  }
}

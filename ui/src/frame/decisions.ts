import { unanswered } from '../api/client'
import type { Decided } from '../api/gen/journal'
import type { Sent } from '../api/kept'

/** What the decisions need of the page around them. */
export interface Around {
  post: (path: string, body: unknown, key: string) => Promise<Decided>
  /** Where they stand from the key pressed until they are answered, whatever becomes of the page. */
  kept: { decide: (sent: Sent) => void; answered: (key: string) => void; waits: (key: string) => Promise<boolean> }
  /** When what was decided is seen: it is sent after that. */
  painted: () => Promise<unknown>
  /** How long to wait before a program that could not be reached so many times is asked again. */
  pause: (times: number) => Promise<unknown>
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
 * answered or refused it. Each is kept from the moment in which it is made; what is refused stops none of those
 * behind it.
 */
export class Decisions {
  private line: Sent[] = []
  private chain: Promise<unknown> = Promise.resolve()
  private stuck = false // whether the program could not be reached

  constructor(private around: Around) {}

  /** How many the program has not answered yet. */
  get pending() {
    return this.line.length
  }

  /** When all that was decided until now has been answered. */
  get settled(): Promise<unknown> {
    return this.chain
  }

  /** Sends what an earlier page has kept; what another page has sent meanwhile is left out. */
  resume(list: Sent[], outcome: (sent: Sent) => Outcome) {
    for (const s of list) void this.queue(s, outcome(s), () => this.around.kept.waits(s.key))
  }

  send(path: string, body: unknown, outcome: Outcome, key = this.around.newKey()): Promise<Decided | null> {
    const item = { path, body, key }
    this.around.kept.decide(item)
    return this.queue(item, outcome, async () => {
      await this.around.painted()
      return this.around.kept.waits(item.key)
    })
  }

  private queue(item: Sent, outcome: Outcome, waits: () => Promise<boolean>): Promise<Decided | null> {
    this.line.push(item)
    const task = this.chain.then(async () => {
      if (await waits()) return this.untilAnswered(item, outcome)
      this.leave(item)
      return null
    })
    this.chain = task
    return task
  }

  private async untilAnswered(item: Sent, outcome: Outcome): Promise<Decided | null> {
    for (let times = 0; ; times++) {
      if (times && !(await this.around.kept.waits(item.key))) {
        this.leave(item) // it was given up meanwhile
        return null
      }
      try {
        const decided = await this.around.post(item.path, item.body, item.key)
        this.leave(item)
        outcome.done(decided)
        return decided
      } catch (e) {
        if (!unanswered(e)) {
          this.leave(item)
          outcome.refused(e)
          return null
        }
        this.stuck = true
        this.around.waiting(this.line.length)
        await this.around.pause(times)
      }
    }
  }

  private leave(item: Sent) {
    this.line = this.line.filter((s) => s !== item)
    this.around.kept.answered(item.key)
    if (!this.stuck) return
    this.around.waiting(this.line.length)
    this.stuck = this.line.length > 0
  }
}

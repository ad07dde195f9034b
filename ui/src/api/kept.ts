import { type DBSchema, deleteDB, type IDBPDatabase, openDB } from 'idb'

/** Something decided on its way to the program; its key makes it count once, however often it is sent. */
export interface Sent {
  path: string
  body: unknown
  key: string
}

/** Something typed that has not come to where it belongs. */
export interface Typed {
  name: string // which field of which thing it stands in
  value: unknown
  what: string // in words, for the user
  path: string // the address at which it was typed
  at: number // when, by the clock of the program
}

const PATIENCE = 10_000 // ms: a browser that has not opened it by then is waited for no longer before Ebbe is shown

interface Schema extends DBSchema {
  decisions: { key: string; value: Sent & { order: number } }
  typed: { key: string; value: Typed }
}

/**
 * What one person of one Ebbe has typed and decided in this browser, in its own storage from the key pressed until
 * the program has it. Each person has a database apart, so nothing of one is ever sent for another. What is typed is
 * in memory, too, and read from there; what another window types or finishes is heard.
 *
 * A write is handed to the browser whole, with its end, before the key press is over: it stands although the page is
 * closed, reloaded or killed right after.
 */
export class Kept {
  private typed = new Map<string, Typed>()
  private order = 0
  private channel: BroadcastChannel | undefined
  private own = new Set<string>() // keys of the decisions made by this page
  private db: IDBPDatabase<Schema> | undefined
  private cleared = false
  // What this page has done before the browser had opened it.
  private early = { names: new Set<string>(), decisions: new Map<string, Sent & { order: number }>() }
  private ready: Promise<void>

  private constructor(
    private name: string,
    private all: string,
    opening: Promise<IDBPDatabase<Schema> | undefined>,
  ) {
    this.ready = opening.then((db) => db && this.adopt(db)).catch(() => {}) // no storage, or none that may be used
    if (typeof BroadcastChannel !== 'undefined') {
      this.channel = new BroadcastChannel(name)
      this.channel.onmessage = ({ data }: MessageEvent<{ name: string; typed?: Typed }>) => {
        this.early.names.add(data.name)
        if (data.typed) this.typed.set(data.name, data.typed)
        else this.gone(data.name)
      }
    }
  }

  /**
   * Opens what is kept under that name. A browser that takes longer than that many ms is heard later: what it has kept
   * is there then, and what was done meanwhile is kept, too. Where it keeps nothing, it is kept for as long as the page
   * lives. All is what the names begin with of all that is kept of the person: each box has its own.
   */
  static async open(name: string, all = name, patience = PATIENCE): Promise<Kept> {
    const open = async () =>
      openDB<Schema>(name, 1, {
        upgrade: (fresh) => {
          fresh.createObjectStore('decisions', { keyPath: 'key' })
          fresh.createObjectStore('typed', { keyPath: 'name' })
        },
        // The person has signed out in another window, which waits for this one to let go.
        blocking: (_now, _next, e) => (e.target as IDBDatabase).close(),
      })
    const kept = new Kept(name, all, open())
    await Promise.race([kept.ready, new Promise((done) => setTimeout(done, patience))])
    return kept
  }

  /** Takes what the browser has kept, but for what has been typed or finished since. */
  private async adopt(db: IDBPDatabase<Schema>) {
    const typed = await db.getAll('typed')
    const decisions = await db.getAll('decisions')
    if (this.cleared) return db.close()
    for (const t of typed) if (!this.early.names.has(t.name)) this.typed.set(t.name, t)
    const last = Math.max(0, ...decisions.map((d) => d.order))
    this.order += last
    this.db = db
    for (const name of this.early.names) {
      const now = this.typed.get(name)
      this.write('typed', (store) => (now ? store.put(now) : store.delete(name)))
    }
    for (const d of this.early.decisions.values())
      this.write('decisions', (store) => store.put({ ...d, order: last + d.order }))
  }

  /** Whether it outlives the page. */
  get lasts() {
    return !!this.db
  }

  /** What was typed there, if it has not come to where it belongs. */
  read<T>(name: string): T | undefined {
    return this.typed.get(name)?.value as T | undefined
  }

  /** All that was typed and not finished, the newest first. */
  unfinished(): Typed[] {
    return [...this.typed.values()].sort((a, b) => b.at - a.at)
  }

  type(typed: Typed) {
    if (!this.db) this.early.names.add(typed.name)
    this.typed.set(typed.name, typed)
    this.channel?.postMessage({ name: typed.name, typed })
    this.write('typed', (store) => store.put(typed))
  }

  private finished = new Set<() => void>()

  private gone(name: string) {
    this.typed.delete(name)
    for (const hear of this.finished) hear()
  }

  /** Calls hear whenever something is finished or given up, here or in another window, until the answer is called. */
  whenFinished(hear: () => void): () => void {
    this.finished.add(hear)
    return () => void this.finished.delete(hear)
  }

  /** It is where it belongs, or was given up. What is given puts it back, should it come back from there. */
  forget(name: string): () => void {
    const was = this.typed.get(name)
    if (!this.db) this.early.names.add(name)
    if (!was) return () => {}
    this.gone(name)
    this.channel?.postMessage({ name })
    this.write('typed', (store) => store.delete(name))
    return () => this.type(was)
  }

  /** What has been decided and not answered, in the order in which it was. */
  async decided(): Promise<Sent[]> {
    await this.ready
    const all = (await this.db?.getAll('decisions').catch(() => [])) ?? []
    return all.sort((a, b) => a.order - b.order).map(({ path, body, key }) => ({ path, body, key }))
  }

  decide(sent: Sent) {
    this.own.add(sent.key)
    const decided = { ...sent, order: ++this.order }
    if (!this.db) this.early.decisions.set(sent.key, decided)
    this.write('decisions', (store) => store.put(decided))
  }

  answered(key: string) {
    this.own.delete(key)
    this.early.decisions.delete(key)
    this.write('decisions', (store) => store.delete(key))
  }

  /** Whether a decision still waits for its answer: another window may have sent it meanwhile. */
  async waits(key: string) {
    if (this.cleared) return false
    return !this.db || this.own.has(key) || (await this.db.getKey('decisions', key).catch(() => key)) !== undefined
  }

  /** The names of what is kept of the person for other boxes. */
  private async others() {
    if (typeof indexedDB === 'undefined') return []
    const known = await indexedDB.databases().catch(() => [])
    return known
      .map((d) => d.name ?? '')
      .filter((n) => n !== this.name && (n === this.all || n.startsWith(this.all + '-in-')))
  }

  /** What has been typed and decided in other boxes and has not come to where it belongs. */
  async elsewhere(): Promise<{ decisions: number; typed: Typed[] }> {
    const out = { decisions: 0, typed: [] as Typed[] }
    for (const name of await this.others()) {
      const other = await Kept.open(name)
      out.decisions += (await other.decided()).length
      out.typed.push(...other.unfinished())
      other.close()
    }
    return out
  }

  private close() {
    this.channel?.close()
    this.db?.close()
    this.db = undefined
  }

  /** Forgets all of it, of all boxes: the person has signed out. */
  async clear() {
    this.cleared = true
    for (const name of [...this.typed.keys()]) this.channel?.postMessage({ name })
    this.typed.clear()
    this.close()
    if (typeof indexedDB === 'undefined') return
    for (const name of [this.name, ...(await this.others())]) await deleteDB(name).catch(() => {})
  }

  private write<N extends 'typed' | 'decisions'>(
    name: N,
    change: (store: { put: (v: Schema[N]['value']) => unknown; delete: (key: string) => unknown }) => unknown,
  ) {
    if (!this.db) return
    try {
      const t = this.db.transaction(name, 'readwrite')
      t.done.catch(() => {}) // a browser that is full keeps what it can; the program is asked all the same
      void Promise.resolve(change(t.store as never)).catch(() => {})
      t.commit()
    } catch {
      this.db = undefined // it was closed as the person signed out elsewhere
    }
  }
}

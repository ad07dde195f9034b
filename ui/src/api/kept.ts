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

const PATIENCE = 3000 // ms: a browser that does not open it by then is taken for one that keeps nothing

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

  private constructor(
    private name: string,
    private db: IDBPDatabase<Schema> | undefined,
  ) {}

  /** Opens what is kept under that name. Where the browser keeps nothing, it is kept for as long as the page lives. */
  static async open(name: string): Promise<Kept> {
    let db: IDBPDatabase<Schema> | undefined
    try {
      const opening = openDB<Schema>(name, 1, {
        upgrade: (fresh) => {
          fresh.createObjectStore('decisions', { keyPath: 'key' })
          fresh.createObjectStore('typed', { keyPath: 'name' })
        },
        // The person has signed out in another window, which waits for this one to let go.
        blocking: (_now, _next, e) => (e.target as IDBDatabase).close(),
      })
      db = await Promise.race([opening, new Promise<undefined>((done) => setTimeout(done, PATIENCE))])
    } catch {
      // no storage, or none that may be used
    }
    const kept = new Kept(name, db)
    if (db) {
      for (const t of await db.getAll('typed')) kept.typed.set(t.name, t)
      kept.order = Math.max(0, ...(await db.getAll('decisions')).map((d) => d.order))
    }
    if (typeof BroadcastChannel !== 'undefined') {
      kept.channel = new BroadcastChannel(name)
      kept.channel.onmessage = ({ data }: MessageEvent<{ name: string; typed?: Typed }>) => {
        if (data.typed) kept.typed.set(data.name, data.typed)
        else kept.typed.delete(data.name)
      }
    }
    return kept
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
    this.typed.set(typed.name, typed)
    this.channel?.postMessage({ name: typed.name, typed })
    this.write('typed', (store) => store.put(typed))
  }

  /** It is where it belongs, or was given up. What is given puts it back, should it come back from there. */
  forget(name: string): () => void {
    const was = this.typed.get(name)
    if (!was) return () => {}
    this.typed.delete(name)
    this.channel?.postMessage({ name })
    this.write('typed', (store) => store.delete(name))
    return () => this.type(was)
  }

  /** What has been decided and not answered, in the order in which it was. */
  async decided(): Promise<Sent[]> {
    const all = (await this.db?.getAll('decisions').catch(() => [])) ?? []
    return all.sort((a, b) => a.order - b.order).map(({ path, body, key }) => ({ path, body, key }))
  }

  decide(sent: Sent) {
    this.own.add(sent.key)
    this.write('decisions', (store) => store.put({ ...sent, order: ++this.order }))
  }

  answered(key: string) {
    this.own.delete(key)
    this.write('decisions', (store) => store.delete(key))
  }

  /** Whether a decision still waits for its answer: another window may have sent it meanwhile. */
  async waits(key: string) {
    return !this.db || this.own.has(key) || (await this.db.getKey('decisions', key).catch(() => key)) !== undefined
  }

  /** Forgets all of it: the person has signed out. */
  async clear() {
    for (const name of [...this.typed.keys()]) this.channel?.postMessage({ name })
    this.typed.clear()
    this.channel?.close()
    this.db?.close()
    this.db = undefined
    if (typeof indexedDB !== 'undefined') await deleteDB(this.name).catch(() => {})
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

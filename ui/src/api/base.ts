/** The number of the team's box in which a path lies; 0: it is in one's own. */
export const boxIn = (path: string) => Number(/^\/in\/(\d+)(?=\/|$)/.exec(path)?.[1] ?? 0)

/** The team's box this page is in, or 0: one's own. A page stays in one box, so nothing of another is ever in it. */
export const team = typeof location === 'undefined' ? 0 : boxIn(location.pathname) // what is tested alone has no address

/** What addresses of this page begin with. */
export const root = team ? `/in/${team}` : ''

/** A path of this page's address without what says in which box it is. */
export const within = (path: string) => (root && path.startsWith(root) ? path.slice(root.length) || '/' : path)

/** Where the program is asked of this box. */
export const api = '/api/v1' + root

/** Under which name the browser keeps what is typed and decided in this box, by a person with that name. */
export const keptUnder = (keep: string) => (team ? `${keep}-in-${team}` : keep)

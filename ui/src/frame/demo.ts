/** Each of the demo's people is at home at a name of this machine, so that several can be signed in in one browser. */
const HOME = '.localhost'

/** A first name, as it stands in such an address. */
export const firstOf = (name: string) => name.toLowerCase().split(' ')[0]

/** Who one is in the demo by the address of the page; '': whoever comes first. */
export const demoAs = (host = location.hostname) => (host.endsWith(HOME) ? host.slice(0, -HOME.length) : '')

/** Where one is somebody else in the demo; '' if the program runs on another machine. */
export function addressAs(first: string, at: { hostname: string; port: string; protocol: string } = location) {
  const here = at.hostname === 'localhost' || at.hostname.endsWith(HOME) || /^127\./.test(at.hostname)
  return here ? `${at.protocol}//${first}${HOME}${at.port && ':' + at.port}/` : ''
}

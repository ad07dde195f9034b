/** What style elements of this page carry so that the browser takes them; the server gives each page another one. */
export const nonce = document.querySelector<HTMLMetaElement>('meta[name=style-nonce]')?.content ?? ''

// Where Radix's parts make style elements of their own, they look for it here.
;(globalThis as { __webpack_nonce__?: string }).__webpack_nonce__ = nonce

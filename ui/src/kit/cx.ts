/** Classes from several places as one; what does not hold adds none. */
export const cx = (...classes: (string | false | undefined)[]) => classes.filter(Boolean).join(' ')

const british = new Intl.NumberFormat('en-GB') // made once: making one costs more than all it says

/** A number in digits, as it is read: "12,040". */
export const digits = (n: number) => british.format(n)

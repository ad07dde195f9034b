import { weekdays } from '../../api/times'

export const order = [1, 2, 3, 4, 5, 6, 0] // Monday first
export const names = weekdays('short')
export const long = weekdays('long')

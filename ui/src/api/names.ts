const titles = /^((dr|prof|mr|mrs|ms|mx)\.? |(herr|frau|mme|madame|fru) )+/i
const firm = new RegExp(
  '\\b(office|works|couriers|school|desk|museum|team|service|support|press|archive|choir|harbour|the|group|club|bank|' +
    'city|town|hotel|inn|travel|library|shop|studio)\\b',
  'i',
)

/**
 * What somebody is called in a sentence: by the first name, with a title by the rest, and a firm, a name of three words
 * or an address as it is.
 */
export function called(name: string) {
  const rest = name.replace(titles, '')
  const words = rest.split(' ')
  return rest !== name || words.length !== 2 || firm.test(name) ? rest : words[0]
}

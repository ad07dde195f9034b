export const sentences = {
  facts: 'Parcels, bills and journeys',
  loading: 'What machines tell',
  nothingToCome: 'Nothing is on its way',
  whatIsShown:
    'Once a message tells of a parcel that is to arrive, a bill to pay, a journey or a booking, it is listed here, wherever that message is.',
  of: (n: number, total: number) => `${n} of ${total} still to come`,
}

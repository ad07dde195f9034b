import { EbbeError } from './client'
import type { PasskeyOffer, PasskeyShown } from './gen/identity'

/** Whether this browser can make passkeys and show them (WebAuthn level 3, section 5.1.8). */
export const knowsPasskeys = () =>
  typeof PublicKeyCredential !== 'undefined' && 'parseCreationOptionsFromJSON' in PublicKeyCredential

const none = () => new EbbeError('The browser gave no passkey. Nothing was changed; try again.', 0, 'passkey')

const shown = async (offer: PasskeyOffer, ask: Promise<Credential | null>): Promise<PasskeyShown> => {
  const given = await ask.catch(() => null) // it says no more than that it was not to be
  if (!(given instanceof PublicKeyCredential)) throw none()
  return { ceremony: offer.ceremony, response: given.toJSON() }
}

/** Has the browser make a passkey. */
export const makePasskey = (offer: PasskeyOffer) =>
  shown(
    offer,
    navigator.credentials.create({
      publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(
        offer.options as PublicKeyCredentialCreationOptionsJSON,
      ),
    }),
  )

/** Has the browser show one. */
export const showPasskey = (offer: PasskeyOffer) =>
  shown(
    offer,
    navigator.credentials.get({
      publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(
        offer.options as PublicKeyCredentialRequestOptionsJSON,
      ),
    }),
  )

import { put, told } from '../../api/client'
import { refresh } from '../../api/queries'
import { useDesk } from '../../frame/desk'
import { sentences } from './sentences'

/** Lets a sender through from now on, whatever the plan says. */
export function useLetThrough() {
  const { say } = useDesk()
  return (address: string, name: string) =>
    void put('/delivery/through', { id: '', by: 'sender', value: address, days: 0 })
      .then(() => {
        say({ text: sentences.comesThroughFromNow(name) })
        refresh(['delivery'])
      })
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
}

/** Where the conversations that came together in a stream are gone through, one by one. */
export const throughDigest = (stream: string) =>
  '/?where=' + encodeURIComponent(JSON.stringify({ stream, together: true }))

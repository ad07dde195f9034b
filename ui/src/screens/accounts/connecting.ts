import { useState } from 'react'
import { EbbeError, get, keyed, post, put, told } from '../../api/client'
import type { AccountDraft, AccountTest, AccountView, ServersFound } from '../../api/desk'
import type { Server } from '../../api/gen/mail'
import { client } from '../../api/queries'
import { useDesk } from '../../frame/desk'
import { useTyped } from '../../frame/kept'
import { sentences } from './sentences'

export const all = {
  archive: true,
  bin: true,
  junk: true,
  read: true,
  star: true,
  folders: { on: false, root: '' },
}
export const nowhere: Server = { host: '', port: 0, security: 'tls' }

/** An account being connected or changed: its servers found, tried, and saved. */
export function useConnecting({ account, name, onDone }: { account?: AccountView; name: string; onDone: () => void }) {
  const { say } = useDesk()
  const [typed, setTyped, done] = useTyped<AccountDraft>(
    'account/' + (account?.id ?? 'new'),
    account
      ? { ...account, secret: '' }
      : {
          id: 0,
          name: '',
          address: '',
          fullName: name,
          signature: '',
          mailbox: nowhere,
          sending: nowhere,
          login: '',
          secret: '',
          token: false,
          carries: all,
          paused: false,
          emptyDays: 0,
        },
    account ? sentences.changesOf(account.name) : sentences.anAccount,
  )
  const [secret, setSecret] = useState('') // is kept nowhere
  const v = { ...typed, secret, carries: { ...all, ...typed.carries } }
  const setV = ({ secret, ...rest }: AccountDraft) => {
    setSecret(secret)
    setTyped({ ...rest, secret: '' })
  }
  const [found, setFound] = useState<ServersFound | null>(null)
  const [test, setTest] = useState<AccountTest | null>(null)
  const [keyOf] = useState(keyed)
  const [busy, setBusy] = useState('')
  const [stays, setStays] = useState(false) // it could not be removed without leaving mail in folders of Ebbe's own
  const [wrong, setWrong] = useState<{ field: string; text: string } | null>(null)
  const known = !!account || !!found || v.mailbox.host !== ''
  const change = (c: Partial<AccountDraft>) => {
    setV({ ...v, ...c })
    setTest(null)
    setWrong(null)
  }
  const failed = (e: unknown) => setWrong({ field: e instanceof EbbeError ? (e.field ?? '') : '', text: told(e) })
  const at = (field: string) => (wrong?.field === field ? wrong.text : undefined)
  const run = async (what: string, f: () => Promise<void>) => {
    setBusy(what)
    setWrong(null)
    try {
      await f()
    } catch (e) {
      failed(e)
    } finally {
      setBusy('')
    }
  }
  const find = () =>
    run(sentences.lookingForTheServers, async () => {
      const f = await get<ServersFound>('/accounts/servers?address=' + encodeURIComponent(v.address.trim()))
      setFound(f)
      setV({ ...v, mailbox: f.mailbox, sending: f.sending, name: v.name || v.address.trim().split('@')[1] })
    })
  const tryIt = () => run(sentences.trying, async () => setTest(await post<AccountTest>('/accounts/test', v)))
  const store = () =>
    run(sentences.saving, async () => {
      await put('/accounts', v, keyOf(v))
      done()
      void client.invalidateQueries({ queryKey: ['accounts'] })
      say({ text: account ? sentences.saved : sentences.connectedItsMailComes })
      onDone()
    })
  const drop = (anyway = false) =>
    run(sentences.takingItAway, async () => {
      await post(`/accounts/${account!.id}/drop`, { anyway }).catch((e: unknown) => {
        if (e instanceof EbbeError && e.type === 'moving-back') setStays(true)
        throw e
      })
      void client.invalidateQueries({ queryKey: ['accounts'] })
      say({ text: sentences.isTakenAwayIts(account!.name) })
      onDone()
    })
  const submit = (e: React.FormEvent) => {
    e.preventDefault()
    void (!known ? find() : test?.fine || account ? store() : tryIt().then())
  }
  return { v, found, setFound, test, busy, wrong, known, change, at, find, tryIt, store, drop, stays, submit }
}

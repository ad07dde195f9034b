import { CheckCircleIcon, WarningCircleIcon } from '@phosphor-icons/react'
import type { AccountView } from '../../api/desk'
import type { KeptFolders } from '../../api/gen/inbox'
import type { Server } from '../../api/gen/mail'
import { plural } from '../../api/times'
import { isAddress } from '../../kit/addresses'
import { Button } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Dialog } from '../../kit/dialog'
import { Field, TextArea } from '../../kit/field'
import { Notice } from '../../kit/notice'
import { Select } from '../../kit/select'
import { carried, keptFolders } from './carried'
import { useConnecting } from './connecting'
import { sentences } from './sentences'

/** Connecting an account: its address first, then what has to be known of its servers. */
export function Form(props: { account?: AccountView; name: string; onDone: () => void }) {
  const { account, onDone } = props
  const { v, found, setFound, test, busy, wrong, known, change, at, find, tryIt, store, drop, stays, submit } =
    useConnecting(props)
  return (
    // eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions -- Escape of any field in it
    <form
      aria-label={account ? sentences.changeNamed(account.name) : sentences.connectAnAccount}
      data-testid="account-form"
      className="grid gap-4"
      onSubmit={submit}
      onKeyDown={(e) => {
        if (e.key === 'Escape') {
          e.stopPropagation()
          onDone()
        }
      }}
    >
      <div className="flex items-end gap-3">
        <Field
          id="address"
          className="max-w-md flex-1"
          label={sentences.mailAddress}
          type="email"
          autoFocus={!account}
          value={v.address}
          wrong={at('address')}
          autoComplete="email"
          onChange={(e) => {
            change({ address: e.target.value })
            if (!account) setFound(null)
          }}
        />
        {!account && (
          <Button
            type={known ? 'button' : 'submit'}
            quiet={known}
            disabled={!isAddress(v.address.trim()) || !!busy}
            className={at('address') ? 'mb-6' : ''}
            onClick={known ? () => void find() : undefined}
          >
            {sentences.findItsServers}
          </Button>
        )}
      </div>
      {known && (
        <>
          {found && (
            <p className={found.announced ? 'text-kelp-600' : 'text-amber-600'} role="status" data-testid="found">
              {found.announced ? sentences.itsDomainNamesThese : sentences.itsDomainNamesNo}
            </p>
          )}
          <div className="grid grid-cols-2 gap-5 max-[700px]:grid-cols-1">
            <ServerFields
              legend={sentences.mailboxImap}
              id="mailbox"
              s={v.mailbox}
              wrong={at('mailbox')}
              usual={[993, 143]}
              onChange={(mailbox) => change({ mailbox })}
            />
            <ServerFields
              legend={sentences.sendingSmtp}
              id="sending"
              s={v.sending}
              wrong={at('sending')}
              usual={[465, 587]}
              onChange={(sending) => change({ sending })}
            />
          </div>
          <div className="grid grid-cols-2 gap-x-5 gap-y-3 max-[700px]:grid-cols-1">
            <Field
              id="login"
              label={sentences.signInAsEmpty}
              value={v.login}
              autoComplete="off"
              onChange={(e) => change({ login: e.target.value })}
            />
            <Field
              id="secret"
              label={(v.token ? sentences.token : sentences.password) + (account ? sentences.emptyAsItWas : '')}
              type="password"
              autoComplete="new-password"
              value={v.secret}
              wrong={at('secret')}
              onChange={(e) => change({ secret: e.target.value })}
            />
            <Field
              id="account-name"
              label={sentences.whatYouCallIt}
              value={v.name}
              maxLength={100}
              onChange={(e) => change({ name: e.target.value })}
            />
            <Field
              id="full-name"
              label={sentences.yourNameAsOthers}
              value={v.fullName}
              maxLength={200}
              onChange={(e) => change({ fullName: e.target.value })}
            />
            <TextArea
              id="signature"
              label={sentences.signature}
              rows={3}
              maxLength={2000}
              value={v.signature}
              wrong={at('signature')}
              onChange={(e) => change({ signature: e.target.value })}
            />
            <fieldset>
              <legend className="mb-1 text-[11.5px] font-[650] text-ink-500">{sentences.carriedBackToThe}</legend>
              <div className="flex flex-wrap gap-x-4 gap-y-1">
                {carried.map(([k, label]) => (
                  <Checkbox
                    key={k}
                    checked={v.carries[k]}
                    onChange={(on) => change({ carries: { ...v.carries, [k]: on } })}
                  >
                    {label}
                  </Checkbox>
                ))}
              </div>
              <Checkbox
                id="keeps-folders"
                checked={v.carries.folders.on}
                onChange={(on) => change({ carries: { ...v.carries, folders: { ...v.carries.folders, on } } })}
                className="mt-2"
                top
              >
                {sentences.keepFolders}
              </Checkbox>
              {v.carries.folders.on && (
                <KeptNames
                  folders={v.carries.folders}
                  wrong={at('folders')}
                  onChange={(folders) => change({ carries: { ...v.carries, folders } })}
                />
              )}
              <Checkbox checked={v.token} onChange={(on) => change({ token: on })} className="mt-2">
                {sentences.signInWithA}
              </Checkbox>
              <Select
                id="empty-days"
                label={sentences.emptyBinAndJunk}
                className="mt-2 max-w-72"
                value={v.emptyDays}
                options={[0, 14, 30, 90, 365].map((n) => ({
                  id: n,
                  name: n ? sentences.afterDays(n) : sentences.never,
                }))}
                onChange={(emptyDays) => change({ emptyDays })}
              />
              {v.emptyDays > 0 && <p className="mt-1 text-[12.5px] text-amber-600">{sentences.itIsRemovedFor}</p>}
              {account && (
                <Checkbox id="paused" checked={v.paused} onChange={(on) => change({ paused: on })} className="mt-1">
                  {sentences.pausedNeitherFetchedNor}
                </Checkbox>
              )}
            </fieldset>
          </div>
        </>
      )}
      {test && (
        <ul className="grid gap-1.5" data-testid="test" role="status">
          {test.steps.map((s) => (
            <li
              key={s.name}
              className={`flex items-start gap-2 rounded-[9px] px-3 py-2 ${s.fine ? 'bg-kelp-100 text-kelp-600' : 'bg-coral-100 text-coral-600'}`}
            >
              {s.fine ? (
                <CheckCircleIcon size={18} className="mt-px shrink-0" aria-hidden />
              ) : (
                <WarningCircleIcon size={18} className="mt-px shrink-0" aria-hidden />
              )}
              <span>
                {s.fine
                  ? sentences.letsYouIn(
                      s.server,
                      s.name === 'mailbox'
                        ? sentences.andHas(plural(test.folders?.length ?? 0, sentences.folder))
                        : sentences.andTakesMailFrom,
                    )
                  : s.text}
                {s.offer && (
                  <Button quiet className="mt-2 block" onClick={() => change({ [s.name]: { ...s.offer } })}>
                    {sentences.useInstead(s.offer.security === 'tls' ? sentences.tls : sentences.starttls)}
                  </Button>
                )}
                {s.fingerprint && (
                  <span className="mt-1 block text-[12.5px]">
                    {sentences.fingerprint} <code className="break-all">{s.fingerprint.match(/../g)!.join(':')}</code>
                    <Button
                      quiet
                      className="mt-2 block"
                      onClick={() =>
                        change({
                          [s.name]: { ...(s.name === 'mailbox' ? v.mailbox : v.sending), trust: s.fingerprint },
                        })
                      }
                    >
                      {sentences.trustThisCertificateFor}
                    </Button>
                  </span>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
      {wrong && !['address', 'mailbox', 'sending', 'secret', 'signature', 'folders'].includes(wrong.field) && (
        <Notice>
          {wrong.text}
          {stays && (
            <Button quiet className="mt-2 block" disabled={!!busy} onClick={() => void drop(true)}>
              {sentences.removeAllTheSame}
            </Button>
          )}
        </Notice>
      )}
      <div className="flex flex-wrap items-center gap-2">
        {known && (
          <Button
            type={account || test?.fine ? 'button' : 'submit'}
            quiet={!!account || test?.fine}
            disabled={!!busy}
            onClick={account || test?.fine ? () => void tryIt() : undefined}
          >
            {sentences.tryIt}
          </Button>
        )}
        {known && (
          <Button
            type={account || test?.fine ? 'submit' : 'button'}
            quiet={!account && !test?.fine}
            disabled={!!busy}
            onClick={account || test?.fine ? undefined : () => void store()}
          >
            {account ? sentences.save : sentences.connect}
          </Button>
        )}
        <Button quiet onClick={onDone}>
          {sentences.cancel}
        </Button>
        <span className="text-ink-500" role="status">
          {busy}
        </span>
        {account && (
          <Dialog
            title={sentences.deleteTheAccount(account.name)}
            text={sentences.ebbeForgetsItsPassword}
            does={sentences.deleteTheAccountTitle}
            onDo={() => void drop()}
          >
            <Button ground="late-quiet" className="ml-auto" disabled={!!busy}>
              {sentences.deleteTheAccountAsk}
            </Button>
          </Dialog>
        )}
      </div>
    </form>
  )
}

/** What the folders are called that Ebbe keeps on a server. */
function KeptNames({
  folders,
  wrong,
  onChange,
}: {
  folders: KeptFolders
  wrong?: string
  onChange: (folders: KeptFolders) => void
}) {
  return (
    <div className="mt-2 rounded-[10px] bg-sand-100 px-3.5 py-2.5" data-testid="kept-folders">
      <p className="mb-2 max-w-xl text-[12.5px] text-ink-500">{sentences.whatTheFoldersDo}</p>
      <div className="grid grid-cols-2 gap-2 max-[700px]:grid-cols-1">
        <Field
          label={sentences.theyStandIn}
          small
          value={folders.root}
          placeholder={sentences.ebbe}
          maxLength={60}
          wrong={wrong}
          onChange={(e) => onChange({ ...folders, root: e.target.value })}
        />
        {keptFolders.map(([role, name]) => (
          <Field
            key={role}
            label={name}
            small
            value={folders.names?.[role] ?? ''}
            placeholder={name}
            maxLength={60}
            onChange={(e) => onChange({ ...folders, names: { ...folders.names, [role]: e.target.value } })}
          />
        ))}
      </div>
      <p className="mt-2 max-w-xl text-[12.5px] text-ink-500">{sentences.oneForEachStream}</p>
    </div>
  )
}

function ServerFields({
  legend,
  id,
  s,
  wrong,
  usual,
  onChange,
}: {
  legend: string
  id: string
  s: Server
  wrong?: string
  usual: [number, number]
  onChange: (s: Server) => void
}) {
  return (
    <fieldset>
      <legend className="mb-1 text-[13px] font-semibold">{legend}</legend>
      <div className="grid grid-cols-[minmax(0,1fr)_76px_116px] gap-2">
        <Field
          id={id + '-host'}
          label={sentences.server}
          value={s.host}
          wrong={wrong}
          autoComplete="off"
          spellCheck={false}
          onChange={(e) => onChange({ ...s, host: e.target.value })}
        />
        <Field
          id={id + '-port'}
          label={sentences.port}
          inputMode="numeric"
          value={s.port || ''}
          autoComplete="off"
          onChange={(e) => onChange({ ...s, port: Number(e.target.value.replace(/\D/g, '')) || 0 })}
        />
        <Select
          id={id + '-security'}
          label={sentences.encryption}
          value={s.security}
          options={[
            { id: 'tls', name: sentences.tls },
            { id: 'starttls', name: sentences.starttls },
            ...(s.security === 'none' ? [{ id: 'none', name: sentences.nothing }] : []),
          ]}
          onChange={(security) =>
            onChange({
              ...s,
              security,
              port: s.port === usual[0] || s.port === usual[1] ? usual[security === 'tls' ? 0 : 1] : s.port,
            })
          }
        />
      </div>
    </fieldset>
  )
}

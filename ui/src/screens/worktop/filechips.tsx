import { DownloadSimpleIcon, PaperclipIcon } from '@phosphor-icons/react'
import { useContext } from 'react'
import { api } from '../../api/base'
import type { MessageView } from '../../api/desk'
import { size } from '../../api/times'
import { Button, LinkButton } from '../../kit/button'
import { BesideContext, pathOf, sameFile, zipOf } from './beside'
import { FindingContext } from './found'
import { sentences } from './sentences.trays'

/** The files of a message: each opens beside it, or is saved. */
export function FileChips({ m }: { m: MessageView }) {
  const beside = useContext(BesideContext)
  const place = useContext(FindingContext).at(beside.conversation)
  return (
    <ul className="mt-3 flex flex-wrap items-center gap-2" aria-label={sentences.files}>
      {m.files.map((f, number) => {
        const of = { message: m.id, number }
        const found = place?.kind === 'file' && sameFile(of, { message: place.message ?? 0, number: place.file })
        return (
          <li key={number} className="flex min-w-0 items-center">
            <Button
              ground={sameFile(beside.at, of) || found ? 'found' : 'line'}
              size="small"
              className="max-w-72 gap-2"
              data-testid="file-chip"
              aria-pressed={sameFile(beside.at, of)}
              onClick={() => beside.open(of)}
            >
              <PaperclipIcon size={15} className="shrink-0 text-ink-500" aria-hidden />
              <span className="truncate">{f.name}</span>
              <span className="shrink-0 text-ink-500">{size(f.size)}</span>
            </Button>
            <LinkButton
              href={api + pathOf(of)}
              download
              quiet
              size="small"
              ground="bare"
              aria-label={sentences.saveFile(f.name)}
              data-tip={sentences.saveFile(f.name)}
            >
              <DownloadSimpleIcon size={15} className="text-accent" aria-hidden />
            </LinkButton>
          </li>
        )
      })}
      {m.files.length > 1 && (
        <li>
          <LinkButton
            href={zipOf(m.files.map((_, number) => ({ message: m.id, number })))}
            download
            size="small"
            ground="bare"
          >
            {sentences.allAsZIP(m.files.length)}
          </LinkButton>
        </li>
      )}
    </ul>
  )
}

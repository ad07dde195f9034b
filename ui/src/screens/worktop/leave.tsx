import { useQuery } from '@tanstack/react-query'
import { get, told } from '../../api/client'
import type { LeaveView } from '../../api/desk'
import { Button, LinkButton } from '../../kit/button'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'

/** Leaving a list: what will happen first, then by one key. */
export function LeaveTray({
  id,
  onLeave,
  onBin,
  onClose,
}: {
  id: number
  onLeave: () => void
  onBin: () => void
  onClose: () => void
}) {
  const { data, error } = useQuery({
    queryKey: ['leave', id],
    queryFn: () => get<LeaveView>(`/conversations/${id}/leave`),
  })
  return (
    <Tray
      label={sentences.leaveTheList}
      testid="leave-tray"
      layout="middle"
      onClose={onClose}
      onSubmit={() => {
        if (data?.way && data.way !== 'page') onLeave()
      }}
    >
      <p className="min-w-64 flex-1">
        {error
          ? told(error)
          : data && (
              <>
                <b>{data.way ? sentences.leave(data.list) : `“${data.list}”`}</b> {data.text}{' '}
                {data.way && data.way !== 'page' && sentences.whatIsHereFrom}
              </>
            )}
      </p>
      {data?.way === 'page' && (
        <LinkButton href={data.page} target="_blank" rel="noopener noreferrer nofollow" onClick={onClose}>
          {sentences.openItsPage}
        </LinkButton>
      )}
      {data?.way && data.way !== 'page' && (
        <Button type="submit" autoFocus>
          {sentences.leaveTheList}
        </Button>
      )}
      <Button quiet onClick={onBin}>
        {sentences.onlyBinThisOne}
      </Button>
      <Button quiet onClick={onClose}>
        {sentences.stay}
      </Button>
    </Tray>
  )
}

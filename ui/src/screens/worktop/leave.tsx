import { useQuery } from '@tanstack/react-query'
import { Tray } from '../../kit/tray'
import { get, told } from '../../api/client'
import type { LeaveView } from '../../api/desk'
import { Button } from '../../kit/button'

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
      label="Leave the list"
      testid="leave-tray"
      layout="middle"
      onClose={onClose}
      onSubmit={() => {
        if (data?.way && data.way !== 'page') onLeave()
      }}
    >
      <p className="min-w-0 flex-1">
        {error
          ? told(error)
          : data && (
              <>
                <b>{data.way ? `Leave “${data.list}”?` : `“${data.list}”`}</b> {data.text}{' '}
                {data.way && data.way !== 'page' && 'What is here from it stays.'}
              </>
            )}
      </p>
      {data?.way === 'page' && (
        <a
          href={data.page}
          target="_blank"
          rel="noopener noreferrer nofollow"
          className="rounded-[9px] bg-fill px-3.5 py-2 text-[13px] font-semibold text-white"
          onClick={onClose}
        >
          Open its page
        </a>
      )}
      {data?.way && data.way !== 'page' && (
        <Button type="submit" autoFocus>
          Leave the list
        </Button>
      )}
      <Button quiet onClick={onBin}>
        Only bin this one
      </Button>
      <Button quiet onClick={onClose}>
        Stay
      </Button>
    </Tray>
  )
}

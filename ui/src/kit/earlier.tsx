import type { ReactNode } from 'react'
import { Button } from './button'

/** Below a list that has been read page by page: the next of them, if there is any. */
export const Earlier = ({
  list,
  children,
}: {
  list: { hasNextPage: boolean; fetchNextPage: () => unknown }
  children: ReactNode
}) =>
  list.hasNextPage && (
    <div className="pt-4 text-center">
      <Button quiet onClick={() => void list.fetchNextPage()}>
        {children}
      </Button>
    </div>
  )

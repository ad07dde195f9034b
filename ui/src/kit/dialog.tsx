import { AlertDialog } from 'radix-ui'
import type { ReactElement } from 'react'
import { Button } from './button'
import { cx } from './cx'
import { nonce } from './nonce'

void nonce // the scroll lock makes a style element

/** Asks before something is done that cannot be taken back, and before nothing else. The way out has the focus. */
export const Dialog = ({
  title,
  text,
  does,
  also,
  cancel = 'Cancel',
  open,
  onOpenChange,
  onDo,
  children,
}: {
  title: string
  text: string // what goes, and what stays
  does: string
  also?: { does: string; onDo: () => void } // the same in another way
  cancel?: string
  open?: boolean // where it is not opened by a button of its own
  onOpenChange?: (open: boolean) => void
  onDo: () => void
  children?: ReactElement // the button that asks for it
}) => (
  <AlertDialog.Root open={open} onOpenChange={onOpenChange}>
    {children && <AlertDialog.Trigger asChild>{children}</AlertDialog.Trigger>}
    <AlertDialog.Portal>
      <AlertDialog.Overlay className="fixed inset-0 z-40 bg-veil" />
      <AlertDialog.Content
        data-lying
        className={cx(
          'ebb fixed top-1/2 left-1/2 z-50 max-h-[90vh] w-[min(26rem,calc(100vw-24px))] -translate-x-1/2',
          '-translate-y-1/2 overflow-y-auto rounded-[10px] border border-sand-300 bg-sand-0 p-5',
        )}
        onKeyDown={(e) => e.stopPropagation()}
      >
        <AlertDialog.Title className="mb-1.5 text-[15px]">{title}</AlertDialog.Title>
        <AlertDialog.Description className="mb-4 text-ink-700">{text}</AlertDialog.Description>
        <div className="flex flex-wrap justify-end gap-2">
          <AlertDialog.Cancel asChild>
            <Button quiet>{cancel}</Button>
          </AlertDialog.Cancel>
          {also && (
            <AlertDialog.Action asChild>
              <Button ground="late-quiet" onClick={also.onDo}>
                {also.does}
              </Button>
            </AlertDialog.Action>
          )}
          <AlertDialog.Action asChild>
            <Button ground="late" onClick={onDo}>
              {does}
            </Button>
          </AlertDialog.Action>
        </div>
      </AlertDialog.Content>
    </AlertDialog.Portal>
  </AlertDialog.Root>
)

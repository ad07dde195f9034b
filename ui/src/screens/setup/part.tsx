import type { ReactNode } from 'react'
import { labelLook } from '../../kit/field'

/** A part of Setup: its name, what it is about, and what is chosen in it. */
export const Part = ({
  id,
  name,
  about,
  testid,
  children,
}: {
  id: string
  name: string
  about?: ReactNode
  testid?: string
  children: ReactNode
}) => (
  <section aria-labelledby={id} data-testid={testid}>
    <h2 id={id} className="mb-1 text-[17px]">
      {name}
    </h2>
    {about && <p className="mb-4 text-ink-500">{about}</p>}
    {children}
  </section>
)

/** Something to choose within a part, with its name above it. */
export const Choosing = ({ name, children }: { name: string; children: ReactNode }) => (
  <fieldset className="mt-4">
    <legend className={labelLook}>{name}</legend>
    <div className="flex flex-wrap gap-1.5">{children}</div>
  </fieldset>
)

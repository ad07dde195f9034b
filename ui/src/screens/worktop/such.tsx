import { Field } from '../../kit/field'
import { sentences } from './sentences.trays'

/** What is such, in the words of rules. */
export const SuchField = ({ value, onChange }: { value: string; onChange: (words: string) => void }) => (
  <Field
    id="such"
    className="mt-1.5"
    label={sentences.suchAs}
    value={value}
    autoComplete="off"
    maxLength={300}
    onChange={(e) => onChange(e.target.value)}
  />
)

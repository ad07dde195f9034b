import { TrashIcon } from '@phosphor-icons/react'
import { type ReactNode, useState } from 'react'
import { BarKeys, DecisionBar } from './bar'
import { BarButton, Button, CardButton, IconButton, LinkButton, Opener, TextButton } from './button'
import { Checkbox } from './checkbox'
import { RadioGroup, TabList, TabPanel, Tabs, Toggle, ToggleGroup } from './choose'
import { Collapsible } from './collapsible'
import { Combo } from './combo'
import { Dialog } from './dialog'
import { Field, TextArea } from './field'
import { FileButton } from './files'
import { Heading } from './heading'
import { Chip, Empty, Failed, Key, priorities, Waves } from './kit'
import { List, Row } from './list'
import { Loading } from './loading'
import { Notice } from './notice'
import { KeyButton, LineButton, Tick, TimeBlock } from './pieces'
import { Popup } from './popup'
import { Select } from './select'
import { Slide } from './slide'
import { Tips } from './tip'
import { Toast, ToastPlace, Toasts } from './toast'
import { Tray } from './tray'

const choices = ['first', 'second', 'third'].map((id) => ({ id, name: id }))

/** Every part of the kit in light, in dark and narrow, while Ebbe is being built (/kit). */
export const KitPage = () => (
  <div className="grid h-full grid-cols-[1fr_1fr_390px] overflow-y-auto">
    <Tips />
    {['light', 'dark', 'narrow'].map((look) => (
      <section key={look} aria-label={look} className={look === 'dark' ? 'dark' : ''}>
        <div className="min-h-full bg-sand-50 p-5 text-ink-900">
          <Parts look={look} />
        </div>
      </section>
    ))}
  </div>
)

function Parts({ look }: { look: string }) {
  const [one, setOne] = useState('first')
  const [maybe, setMaybe] = useState('')
  const [on, setOn] = useState(true)
  const [text, setText] = useState('')
  const [open, setOpen] = useState(false)
  const [percent, setPercent] = useState(30)
  const nothing = () => {}
  return (
    <div className="space-y-5">
      <Heading>The kit, {look}</Heading>
      <Part name="Buttons">
        <Button>Save</Button>
        <Button quiet>Cancel</Button>
        <Button disabled>Save</Button>
        <Button size="small">Save</Button>
        <Button size="small" quiet>
          Cancel
        </Button>
        <Button size="small" ground="line">
          Read next week
        </Button>
        <LinkButton href="#kit" quiet>
          All as a file
        </LinkButton>
        <TextButton>Show all</TextButton>
        <TextButton tone="faint">Add a note</TextButton>
        <TextButton tone="late">Try again</TextButton>
        <IconButton label="Delete">
          <TrashIcon size={14} aria-hidden />
        </IconButton>
        <Opener open={on} onClick={() => setOn(!on)}>
          Headers
        </Opener>
        <BarButton on={on} onClick={() => setOn(!on)}>
          by reason
        </BarButton>
        <FileButton label="A file" onFiles={nothing}>
          Choose a file
        </FileButton>
        <Chip tone="due">due today</Chip>
        <Key>5</Key>
      </Part>
      <Part name="Cards and lines">
        <div className="w-full">
          <CardButton small>A card</CardButton>
          <CardButton small look="open" className="my-1">
            One more
          </CardButton>
          <CardButton small look="tide">
            A note
          </CardButton>
          <LineButton on>The one that is open</LineButton>
          <LineButton>Another</LineButton>
        </div>
        <Tick label="Finish" />
        <Tick label="Open again" finished />
        <TimeBlock look="event">14:00</TimeBlock>
        <TimeBlock look="asked">15:00</TimeBlock>
        <TimeBlock look="chosen">16:00</TimeBlock>
        {priorities.map((p) => (
          <Waves key={p} priority={p} />
        ))}
      </Part>
      <Part name="Choices">
        <RadioGroup label="One" options={choices} value={one} onChange={setOne} />
        <RadioGroup label="One, plain" look="plain" options={choices} value={one} onChange={setOne} />
        <ToggleGroup label="One or none" options={choices} value={maybe} none="" onChange={setMaybe} />
        <Toggle on={on} onChange={setOn}>
          unread
        </Toggle>
        <Checkbox checked={on} onChange={setOn}>
          only if nobody has answered
        </Checkbox>
        <Tabs value={one} onChange={setOne}>
          <TabList label="Views" options={choices} />
          <TabPanel value={one} className="pt-1">
            the {one}
          </TabPanel>
        </Tabs>
      </Part>
      <Part name="Fields">
        <div className="w-full space-y-2">
          <Field label="Subject" placeholder="a few words" />
          <Field label="Port" defaultValue="70000" wrong="A port is a number up to 65535." />
          <Field label="Small" small />
          <TextArea label="Notes" rows={2} />
          <Select label="Stage" value={one} options={choices} onChange={setOne} />
          <Slide label="Percent done" value={percent} max={100} step={10} onChange={setPercent} />
          <Combo
            id={'kit-combo-' + look}
            label="Label"
            listLabel="Labels"
            text={text}
            offers={choices.filter((c) => c.name.includes(text))}
            keyOf={(c) => c.id}
            none="Nothing has these letters."
            onText={setText}
            onTake={(c) => setText(c.name)}
          >
            {(c) => c.name}
          </Combo>
        </div>
      </Part>
      <Part name="A list">
        <div className="w-full">
          <List label={'A list, ' + look}>
            {choices.map((c) => (
              <Row
                key={c.id}
                title={c.name}
                current={c.id === one}
                className="px-3 py-1.5"
                onChoose={() => setOne(c.id)}
              >
                {c.name}
              </Row>
            ))}
          </List>
        </div>
        <span className="rounded-[10px] bg-frame p-2 text-white">
          <Popup label="Where are you?" look="pill" open={open} onOpenChange={setOpen} trigger="at the workshop">
            <CardButton small look="bare">
              the quay store
            </CardButton>
          </Popup>
        </span>
      </Part>
      <Part name="What is folded away, and what is asked">
        <Collapsible
          className="w-full"
          headClass="text-[12.5px] text-ink-500"
          head="Quoted text, 3 lines"
          open={on}
          onOpenChange={setOn}
        >
          <p className="pl-4">What was quoted.</p>
        </Collapsible>
        <Dialog title="Delete the account?" text="Its mail stays." does="Delete the account" onDo={nothing}>
          <Button quiet>Delete the account…</Button>
        </Dialog>
      </Part>
      <Part name="States">
        <div className="w-full space-y-1.5">
          <Notice>A port is a number up to 65535.</Notice>
          <Notice tone="doubt" boxed>
            The 20:00 round lies in quiet hours.
          </Notice>
          <Notice tone="fine" boxed>
            The server lets you in.
          </Notice>
          <Notice tone="plain" boxed>
            Ten minutes are over.
          </Notice>
          <Toasts>
            <ToastPlace />
            <Toast wrong onEnd={nothing}>
              What was done is said here.
            </Toast>
          </Toasts>
          <Loading lines={2} />
          <Failed error={new Error('Ebbe cannot be reached.')} again={nothing} />
          <Empty title="Nothing to follow up">Make a message a follow-up with key 6.</Empty>
        </div>
      </Part>
      <DecisionBar>
        <Tray label="A tray" page onClose={nothing}>
          <p className="p-3">What opens above the bar.</p>
        </Tray>
        <BarKeys>
          <KeyButton keyed="1">Bin</KeyButton>
          <KeyButton keyed="5" on>
            Snooze
          </KeyButton>
          <KeyButton disabled>Star</KeyButton>
        </BarKeys>
      </DecisionBar>
    </div>
  )
}

const Part = ({ name, children }: { name: string; children: ReactNode }) => (
  <section aria-label={name}>
    <h2 className="mb-2 text-[11.5px] text-ink-500">{name}</h2>
    <div className="flex flex-wrap items-center gap-2">{children}</div>
  </section>
)

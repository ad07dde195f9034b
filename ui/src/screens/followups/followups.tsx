import { DndContext, DragOverlay, pointerWithin } from '@dnd-kit/core'
import type { FollowUpGroup, FollowUpView } from '../../api/desk'
import { digits } from '../../api/digits'
import { Keeps } from '../../frame/kept'
import { BarKeys, DecisionBar } from '../../kit/bar'
import { Button, IconButton, TextButton } from '../../kit/button'
import { TabList, TabPanel, Tabs } from '../../kit/choose'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed, Waves } from '../../kit/kit'
import { LineField, toNew } from '../../kit/line'
import { List, MoreRow } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { InAllBoxes } from '../mine/link'
import { DockKey, DockSide } from '../worktop/dock'
import { Days } from './days'
import { FilterTray } from './filter'
import { HandOverTray } from './handover'
import { Carry, Lane } from './lanes'
import { PanelTray } from './panel'
import { Line, PutOffTray } from './parts'
import { sentences } from './sentences'
import { bys, useTracked } from './tracked'

/** Tracked work: arranged, filtered, moved to days and through stages. */
export function FollowUps() {
  const {
    by,
    shownBy,
    filter,
    list,
    settings,
    desk,
    tray,
    setTray,
    dragged,
    setDragged,
    sensors,
    data,
    groups,
    all,
    index,
    current,
    open,
    show,
    choose,
    step,
    stages,
    openOne,
    oneByOne,
    toggle,
    showView,
    drop,
    load,
    nameOf,
    keepView,
    dropView,
    filtered,
    board,
  } = useTracked()
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!data) return <Loading what={sentences.loadingTheFollowUps} />
  const line = (f: FollowUpView, card = false) => (
    <Carry key={f.uid} f={f} onLift={() => choose(f)}>
      <Line
        f={f}
        card={card}
        selected={f.uid === current?.uid}
        onSelect={() => choose(f)}
        onOpen={() => openOne(f)}
        onFinish={() => step('finish', f)}
        onReopen={() => step('reopen', f)}
      />
    </Carry>
  )
  const rows = (g: FollowUpGroup, card = false) => (
    <>
      {g.followUps.map((f) => line(f, card))}
      {(g.next || (!g.loaded && g.count > 0)) && (
        <MoreRow>
          <TextButton className="w-full py-2" onClick={() => load(g)}>
            {g.loaded ? sentences.showMoreOf(digits(g.count)) : sentences.show(digits(g.count))}
          </TextButton>
        </MoreRow>
      )}
    </>
  )
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      onDragStart={(e) => setDragged(all.find((f) => f.uid === e.active.id))}
      onDragEnd={drop}
      onDragCancel={() => setDragged(undefined)}
    >
      <Tabs
        value={by}
        onChange={(id) => show(id, filter)}
        className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[minmax(0,auto)_minmax(0,1fr)_auto]"
      >
        <div className="min-h-0 px-[22px] pt-4 max-[700px]:overflow-hidden max-[700px]:px-3">
          <div className="mb-3 flex flex-wrap items-center gap-3.5">
            <Heading>{sentences.followUpsTitle}</Heading>
            <TabList label={sentences.arranged} options={bys.map(([id, name]) => ({ id, name }))} />
            <Keeps name="follow-up-line" what={sentences.aLineToWriteDown}>
              <LineField
                id="quick"
                quiet
                className="relative min-w-64 flex-1"
                label={sentences.writeOneDown}
                placeholder={sentences.writeOneDownRing}
                onAccept={(w) => desk.act('/follow-ups/new', toNew(w.followUp, false))}
              />
            </Keeps>
            <Button quiet onClick={oneByOne}>
              {sentences.oneByOne}
            </Button>
            <InAllBoxes />
          </div>
          <Days
            list={data}
            filter={filter}
            dragging={!!dragged}
            onFilter={(n) => show(by, { ...filter, day: undefined, group: undefined, ...n })}
          />
          {(filtered.length > 0 || (settings?.views.length ?? 0) > 0) && (
            <div className="mb-1 flex flex-wrap items-center gap-1.5 text-[12px] text-ink-500" data-testid="filtered">
              {filtered.length > 0 && (
                <>
                  {sentences.only}{' '}
                  {filtered.map((n) => (
                    <Chip key={n} tone="tide">
                      {n}
                    </Chip>
                  ))}
                  <TextButton onClick={() => show(by, {})}>{sentences.showAll}</TextButton>
                </>
              )}
              <span className="flex-1" />
              {settings?.views.map((v) => (
                <span key={v.id} className="inline-flex items-center gap-1 rounded-[6px] bg-sand-100 px-2 py-0.5">
                  <TextButton tone="faint" onClick={() => showView(v)}>
                    {v.name}
                  </TextButton>
                  <IconButton label={sentences.deleteTheView(v.name)} late onClick={() => dropView(v.id)}>
                    ×
                  </IconButton>
                </span>
              ))}
            </div>
          )}
        </div>
        <TabPanel
          value={by}
          className={`min-h-0 px-[22px] max-[700px]:px-3 ${board ? 'overflow-x-auto overflow-y-hidden pb-1' : 'overflow-y-auto pb-6'}`}
        >
          {!all.length &&
            !data.total &&
            (filtered.length ? (
              <Empty title={sentences.nothingOfThatKind}>{sentences.noFollowUpsMatch}</Empty>
            ) : (
              !board && <Empty title={sentences.nothingToFollowUp}>{sentences.makeAMessageA}</Empty>
            ))}
          {board ? (
            <div
              className="grid h-full gap-3.5"
              style={{ gridTemplateColumns: `repeat(${groups.length}, minmax(230px, 1fr))` }}
            >
              {groups.map((g) => (
                <Lane
                  key={g.key}
                  stage={stages.find((s) => s.id === g.key)}
                  first={g === groups[0]}
                  group={g}
                  owner={shownBy === 'owner'}
                >
                  {rows(g, true)}
                </Lane>
              ))}
            </div>
          ) : (
            groups
              .filter((g) => g.count > 0)
              .map((g) => (
                <section key={g.key} aria-label={nameOf(g)} className="mt-3">
                  <h2
                    className={`flex items-center gap-2 border-b-2 px-0.5 pb-1.5 text-[13.5px] ${g.key === 'late' ? 'border-coral-600' : 'border-ink-900'}`}
                  >
                    {shownBy === 'priority' && <Waves priority={Number(g.key)} />}
                    {nameOf(g)}
                    <span className="ml-auto font-medium text-ink-500">{digits(g.count)}</span>
                  </h2>
                  <List label={nameOf(g)}>{rows(g)}</List>
                </section>
              ))
          )}
        </TabPanel>
        <DecisionBar>
          {tray === 'put-off' && current && (
            <PutOffTray
              title={current.title}
              days={data.days}
              onClose={() => setTray('')}
              onDay={(day) => {
                setTray('')
                void desk.step(current.uid, { kind: 'put-off', day, seen: 'open' })
              }}
              onTime={(to) => {
                setTray('')
                void desk.step(current.uid, { kind: 'put-off', to, seen: 'open' })
              }}
              onNoDate={
                current.due.at
                  ? () => {
                      setTray('')
                      void desk.step(current.uid, { kind: 'put-off', to: { at: 0 }, seen: 'open' })
                    }
                  : undefined
              }
            />
          )}
          {tray === 'hand-over' && current && (
            <HandOverTray
              f={current}
              onClose={() => setTray('')}
              onHand={(s) => {
                setTray('')
                void desk.step(current.uid, s)
              }}
            />
          )}
          {tray === 'change' && current && <PanelTray key={current.uid} f={current} onClose={() => setTray('')} />}
          {tray === 'filter' && (
            <FilterTray filter={filter} onFilter={(n) => show(by, n)} onKeep={keepView} onClose={() => setTray('')} />
          )}
          <BarKeys side={<DockSide position={all.length ? sentences.of(index + 1, digits(data.total)) : ''} />}>
            {current && !open ? (
              <DockKey id="reopen" onClick={() => step('reopen')}>
                {sentences.openAgainTitle}
              </DockKey>
            ) : (
              <>
                <DockKey id="drop" disabled={!current} onClick={() => step('drop')}>
                  {sentences.cancelIt}
                </DockKey>
                <DockKey id="finish" disabled={!current} onClick={() => step('finish')}>
                  {sentences.finishTitle}
                </DockKey>
                <DockKey
                  id="hand-over"
                  disabled={!current}
                  on={tray === 'hand-over'}
                  onClick={() => toggle('hand-over')}
                >
                  {sentences.waitFor}
                </DockKey>
                <DockKey id="put-off" disabled={!current} on={tray === 'put-off'} onClick={() => toggle('put-off')}>
                  {sentences.putOffTitle}
                </DockKey>
                <DockKey id="change" disabled={!current} on={tray === 'change'} onClick={() => toggle('change')}>
                  {sentences.change}
                </DockKey>
              </>
            )}
            <DockKey id="filter" wide on={tray === 'filter'} onClick={() => toggle('filter')}>
              {sentences.filter}
            </DockKey>
            {current && (
              <DockKey id="open-followup" wide onClick={() => openOne()}>
                {sentences.openTitle}
              </DockKey>
            )}
          </BarKeys>
        </DecisionBar>
      </Tabs>
      <DragOverlay dropAnimation={null}>
        {dragged && (
          <div className="w-56 rounded-[8px] border border-fill bg-sand-0 px-3 py-1.5 font-semibold shadow-carried">
            <span className="block truncate">{dragged.title}</span>
          </div>
        )}
      </DragOverlay>
    </DndContext>
  )
}

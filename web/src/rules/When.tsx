import { memo } from 'react';
import { Checkbox, MultiSelect } from '@mantine/core';
import {
  article,
  labelAt,
  leafFields,
  watchableFields,
  triggerKind,
  triggerKinds,
  type EventKind,
  type Finding,
  type SystemView,
  type Trigger,
  type TriggerMember,
} from '@vast-knot/core';
import { RecordTypeSelect } from '../parts/RecordTypeSelect';
import { SystemTag } from '../parts/SystemTag';
import { FindingNotes } from './findings/FindingNote';
import { Phrase } from '../parts/Phrase';
import { useSheetTools } from './SheetContext';
import { Inputs } from './when/Inputs';
import type { Narrowing } from './when/narrowing';
import { Once } from './when/Once';
import { ScheduleClause } from './when/ScheduleClause';
import { Turns } from './when/Turns';
import { Wait } from './when/Wait';

interface WhenProps {
  /** Those about the trigger. */
  readonly findings: readonly Finding[];
  readonly trigger: Trigger;
  readonly systems: readonly SystemView[];
}

/** The clause “When a company in Customer Book is updated and any of phone, address changes”. */
export const When = memo(function When({ trigger, systems, findings }: WhenProps) {
  const { edit, fix } = useSheetTools();
  const system = systems.find(({ key }) => key === trigger.system);
  const type = system?.recordTypes.find(({ name }) => name === trigger.recordType);
  const set = (change: Partial<Trigger>) =>
    edit((body) => ({ ...body, trigger: { ...body.trigger, ...change } }));
  const drop = (member: Narrowing) => edit((body) => ({ ...body, trigger: without(body.trigger, member) }));
  const setKinds = (kinds: readonly EventKind[]) =>
    edit((body) => {
      const next = { ...body.trigger, kinds };
      return { ...body, trigger: everyKindMayBeOnce(kinds) ? next : without(next, 'once') };
    });
  const has = (member: TriggerMember) =>
    trigger.kinds.some((kind) => triggerKind(kind).members.includes(member));
  const labels = trigger.watched.map((path) => labelAt(type?.fields ?? [], path));
  const objects = (type?.fields ?? []).filter((field) => field.type === 'object');
  const watchable = [
    ...objects.map(({ name, label }) => ({ value: name, label: `${label} (any part)` })),
    ...watchableFields(type?.fields ?? [])
      .filter(({ field }) => !field.keptBySystem)
      .map(({ path, label, field }) => ({
        value: path,
        label: field.type === 'list' && field.fields ? `${label} (any part)` : label,
      })),
  ];
  // What turns from one value to another is one value.
  const turning = leafFields(type?.fields ?? [])
    .filter(({ field }) => field.type !== 'list')
    .map(({ path, label }) => ({ value: path, label }));
  return (
    <div className="clause">
      <span className="word">When</span>
      <span>
        {article(type?.label ?? trigger.recordType)}{' '}
        <Phrase
          says={type?.label.toLowerCase() ?? trigger.recordType}
          label="Record type that starts the rule"
        >
          <RecordTypeSelect
            systems={systems}
            value={trigger}
            onChange={(place) => set({ ...place, watched: [] })}
          />
        </Phrase>{' '}
        in <SystemTag system={trigger.system} named />{' '}
        <Phrase
          says={trigger.kinds.map((kind) => triggerKind(kind).words).join(' or ')}
          label="Kinds of change"
          width={240}
        >
          <Checkbox.Group
            label="Kinds of change"
            value={[...trigger.kinds]}
            onChange={(kinds) => kinds.length > 0 && setKinds(kinds as EventKind[])}
          >
            {triggerKinds.map(({ kind, words }) => (
              <Checkbox key={kind} value={kind} label={words} size="xs" mt={6} />
            ))}
          </Checkbox.Group>
        </Phrase>
        {has('watched') && (
          <>
            {' '}
            and any of{' '}
            <Phrase
              says={labels.length > 0 ? labels.join(', ') : 'its fields'}
              label="Watched fields"
              width={380}
            >
              <MultiSelect
                label="Watched fields"
                description="Only a change of one of these starts the rule."
                data={watchable}
                value={[...trigger.watched]}
                onChange={(watched) => set({ watched })}
                searchable
                placeholder={trigger.watched.length === 0 ? 'any field' : undefined}
              />
            </Phrase>{' '}
            changes
          </>
        )}
        {has('turns') && trigger.watched.length > 0 && (
          <Turns trigger={trigger} fields={turning} set={set} drop={drop} />
        )}
        {has('wait') && <Wait wait={trigger.wait} set={set} drop={drop} />}
        {everyKindMayBeOnce(trigger.kinds) && <Once once={trigger.once === true} set={set} drop={drop} />}
        {has('schedule') && <ScheduleClause schedule={trigger.schedule} set={set} />}
        {has('inputs') && <Inputs inputs={trigger.inputs ?? []} set={set} />}
        {has('watched') && trigger.watched.length === 0 && (
          <div className="small will-text">
            No field is watched: every save of the record starts this rule.
          </div>
        )}
        <FindingNotes findings={findings} onFix={fix} />
      </span>
    </div>
  );
});

const everyKindMayBeOnce = (kinds: readonly EventKind[]) =>
  kinds.every((kind) => triggerKind(kind).members.includes('once'));

function without(trigger: Trigger, member: Narrowing): Trigger {
  const { [member]: _gone, ...rest } = trigger;
  return rest;
}

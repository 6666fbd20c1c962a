import type { ChangeEvent, EventKind } from '../event';
import type { RecordType } from '../system';
import { noRecord } from '../record';
import type { Trigger } from '../trigger';
import { created } from './created';
import { deleted } from './deleted';
import { fileRow } from './fileRow';
import { formAnswer } from './formAnswer';
import type { Selection, TriggerKind } from './kind';
import { requested } from './requested';
import { scheduled } from './scheduled';
import { updated } from './updated';
import { lower, orList } from './words';

/** Everything that can start a rule, in the order in which it is offered. To add a kind, write its file and its line here. */
export const triggerKinds = [created, updated, deleted, requested, scheduled, fileRow, formAnswer] as const;

const byKind: ReadonlyMap<string, TriggerKind> = new Map(triggerKinds.map((each) => [each.kind, each]));

/** Returns what there is to know of a kind of event. */
export function triggerKind(kind: EventKind): TriggerKind {
  // The list names every kind of event.
  return byKind.get(kind) as TriggerKind;
}

/** Returns whether an event of the trigger's record type starts the rule: by its kind, and for updates by what changed. */
export function select(trigger: Trigger, recordType: RecordType, event: ChangeEvent): Selection {
  const { past, select: selectOwn } = triggerKind(event.kind);
  if (!trigger.kinds.includes(event.kind)) {
    const wanted = orList(trigger.kinds.map((kind) => triggerKind(kind).words));
    const because = `The ${lower(recordType.label)} ${past}; the rule starts when it ${wanted}.`;
    return { fires: false, verdict: 'not this kind', because };
  }
  if ((trigger.once === true) !== (event.ref.id === noRecord)) {
    const because = trigger.once
      ? `The rule is done once for all ${lower(recordType.plural)}; this is about one.`
      : `The rule is done for each ${lower(recordType.label)}; this is about none by itself.`;
    return { fires: false, verdict: 'not this kind', because };
  }
  return selectOwn?.(trigger, recordType, event) ?? { fires: true };
}

import {
  creates,
  kindOf,
  labelAt,
  targetName,
  type Action,
  type RuleBody,
  type SystemView,
} from '@vast-knot/core';
import { SystemTag } from '../../parts/SystemTag';

interface RuleSentenceProps {
  readonly body: RuleBody;
  readonly systems: readonly SystemView[];
}

/** What starts a rule and what it does, in one line. */
export function RuleSentence({ body, systems }: RuleSentenceProps) {
  const typeOf = (key: string, name: string) =>
    systems.find((each) => each.key === key)?.recordTypes.find((each) => each.name === name);
  const type = typeOf(body.trigger.system, body.trigger.recordType);
  const watched = body.trigger.watched.map((path) => labelAt(type?.fields ?? [], path));
  const targets = body.actions.map((action) => {
    if (creates(action)) return { system: action.system, type: action.recordType };
    const find = body.finds.find(({ alias }) => alias === targetName(action));
    return find
      ? { system: find.system, type: find.recordType }
      : { system: body.trigger.system, type: body.trigger.recordType };
  });
  return (
    <>
      <SystemTag system={body.trigger.system} /> {type?.label ?? body.trigger.recordType}{' '}
      {body.trigger.kinds.join(' or ')}
      {watched.length > 0 && `, when ${watched.join(' or ')} changed`}
      {targets.map((target, at) => (
        <span key={at}>
          <span className="arrow">→</span>
          <SystemTag system={target.system} /> {typeOf(target.system, target.type)?.label ?? target.type}
          {doneWith(body.actions[at])}
        </span>
      ))}
    </>
  );
}

/** Returns what an action does with its record, in brackets. */
function doneWith(action: Action | undefined): string {
  return action ? ` (${kindOf(action).summary(action)})` : '';
}

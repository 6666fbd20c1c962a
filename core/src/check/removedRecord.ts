import { kindOf } from '../engine/actions';
import type { Check, Finding } from './finding';

/** Actions on the triggering record of a rule that starts when it is deleted. */
export const removedRecord: Check = {
  kind: 'removed record',
  meaning:
    'A rule that starts when a record is deleted does something to that record, which is not there any more.',
  find: ({ rule, compiledParts }) => {
    const { kinds } = rule.trigger;
    if (!compiledParts || !kinds.includes('deleted')) return [];
    const label = compiledParts.recordType.label.toLowerCase();
    const alone = kinds.length === 1;
    const message = alone
      ? `The rule starts when the ${label} is deleted: it is not there any more when this would be done to it.`
      : `When the ${label} is deleted, this fails: it is not there any more. A condition on the action or a rule of its own leaves that case out.`;
    return rule.actions.flatMap((action, at): Omit<Finding, 'kind'>[] => {
      const target = kindOf(action).target(action);
      if (target.is !== 'named' || target.name !== 'record') return [];
      return [{ severity: alone ? 'error' : 'warning', at: `actions/${at}`, message }];
    });
  },
};

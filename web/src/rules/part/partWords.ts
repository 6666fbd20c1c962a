import { actionKinds, creates, targetName, type RulePart } from '@vast-knot/core';

/** Says what a part of a rule is, within a sentence: “the find of booking”, “an action (write to a record: booking)”. */
export function partWords({ find, action }: RulePart): string {
  if (find) return `the find of ${find.alias}`;
  if (!action) return 'the guard';
  const offer = actionKinds[action.kind].offer.toLowerCase();
  const name = targetName(action);
  return `an action (${offer}${creates(action) || name !== 'record' ? `: ${name}` : ''})`;
}

import type { RuleView } from '@vast-knot/core';

/** One step of the first visit: where it is, what there is to see, and what to try. */
export interface TourStep {
  readonly title: string;
  readonly path: string;
  readonly see: string;
  readonly attempt: string;
}

/**
 * Returns the six steps that lead through one change end to end: the record that changes, the rule, what it would write, the run, and taking
 * it back. They are about a rule that runs, where one does.
 */
export function tourSteps(rules: readonly RuleView[]): readonly TourStep[] {
  const rule = rules.find(({ published }) => published?.body.trigger.kinds.includes('updated')) ?? rules[0];
  const { trigger, finds } = rule?.published?.body ?? rule?.draft ?? {};
  const find = finds?.[0];
  const name = rule ? `“${rule.published?.body.name ?? rule.draft.name}”` : 'a rule';
  const right = find ? `&right=${find.system}/${find.recordType}` : '';
  return [
    {
      title: 'How things stand',
      path: '/today',
      see: 'What needs a person stands at the top; below it is how much came in and was written, hour by hour.',
      attempt: 'Press a line to get to where it is dealt with.',
    },
    {
      title: 'The records that change',
      path: trigger ? `/records?left=${trigger.system}/${trigger.recordType}${right}` : '/records',
      see: 'Two systems stand side by side, with their records as they are now.',
      attempt: 'Choose a record at the left, change a field, and press “What would happen?” before you save.',
    },
    {
      title: 'The rule',
      path: rule ? `/rules/${rule.id}` : '/rules/new',
      see: `${name} reads like a page: when it starts, which records it reaches, and what each field gets.`,
      attempt: 'Press a target field to see how its value is made, step by step.',
    },
    {
      title: 'Trying it without writing',
      path: '/bench',
      see: 'Samples are changes that were kept. A replay computes what the rules would write and writes to no system.',
      attempt: 'Choose a sample and compare what came out with what is expected.',
    },
    {
      title: 'What happened',
      path: rule?.published ? `/runs?rule=${rule.id}` : '/runs',
      see: 'Every change that came in is a run: which rules it started, what they read, what they wrote and why.',
      attempt: 'Open a run, and press “Read the records back” to see whether it still holds.',
    },
    {
      title: 'Taking it back',
      path: rule ? `/rules/${rule.id}/take-back` : '/runs',
      see: 'What a run or a rule wrote can be taken back. What somebody changed since stays as it is.',
      attempt: 'Look at what would go back; nothing is taken back before you say so.',
    },
  ];
}

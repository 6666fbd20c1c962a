import type { Formula } from '../formula/compile';
import type { Subject } from './finding';

/** Every formula of a rule that compiles, with its place. */
export function formulasIn({
  sound,
}: Subject): readonly { readonly at: string; readonly formula: Formula }[] {
  if (!sound) return [];
  return [
    ...(sound.guard ? [{ at: 'guard', formula: sound.guard }] : []),
    ...sound.finds.flatMap((find, at) =>
      find.match.map(({ compiled }, index) => ({
        at: `finds/${at}/match/${index}/formula`,
        formula: compiled,
      })),
    ),
    ...sound.actions.flatMap((action) =>
      action.lines.map((line) => ({
        at: `actions/${action.at}/lines/${line.at}/formula`,
        formula: line.compiled,
      })),
    ),
  ];
}

import type { Formula } from '../formula/compile';
import type { CompiledAction, CompiledRule } from './compiled';

/** A compiled formula with its place in the rule: `finds/0/where`, `actions/1/lines/2/formula`. */
export interface PlacedFormula {
  readonly at: string;
  readonly formula: Formula;
}

/** Every formula of a compiled rule, with its place. What another rule does is that rule's. */
export function compiledFormulas({ guard, finds, actions }: CompiledRule): readonly PlacedFormula[] {
  return [
    ...placed('guard', guard),
    ...finds.flatMap((find, at) => [
      ...find.match.flatMap(({ compiled, compiledAs }, index) => [
        ...placed(`finds/${at}/match/${index}/as`, compiledAs),
        ...placed(`finds/${at}/match/${index}/formula`, compiled),
      ]),
      ...placed(`finds/${at}/where`, find.compiledWhere),
    ]),
    ...actions.flatMap((action) => formulasIn(action)),
  ];
}

function formulasIn(action: CompiledAction): readonly PlacedFormula[] {
  const place = `actions/${action.at}`;
  return [
    ...placed(`${place}/only`, action.only),
    ...('each' in action ? placed(`${place}/each`, action.each) : []),
    ...action.lines.map(({ at, compiled }) => ({ at: `${place}/lines/${at}/formula`, formula: compiled })),
    ...('parts' in action
      ? action.parts.flatMap(({ compiled }, at) => placed(`${place}/parts/${at}/formula`, compiled))
      : []),
    ...('steps' in action
      ? action.steps.flatMap(({ compiled }, at) => placed(`${place}/steps/${at}/formula`, compiled))
      : []),
  ];
}

function placed(at: string, formula: Formula | undefined): readonly PlacedFormula[] {
  return formula ? [{ at, formula }] : [];
}

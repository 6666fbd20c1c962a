/**
 * A place in a rule, by which findings, formulas and fixes are known. Written as a path: `guard`, `finds/0/match/1/formula`,
 * `actions/0/lines/2/formula`. What a part holds deeper down stands in `rest`.
 */
export type RulePlace =
  /** The rule as a whole, and its members that have no places of their own: `guard`, `name`, `actions`. */
  | { readonly of: 'rule'; readonly member: string }
  /** Something about the trigger: `trigger/watched/1`. */
  | { readonly of: 'trigger'; readonly rest: readonly string[] }
  /** A find, or something in it: `finds/0/where`. */
  | { readonly of: 'find'; readonly at: number; readonly rest: readonly string[] }
  /** An action, or something of it as a whole: `actions/1/only`, `actions/1/parts/0/formula`. */
  | { readonly of: 'action'; readonly at: number; readonly rest: readonly string[] }
  /** A mapping line of an action: `actions/1/lines/2/formula`. */
  | {
      readonly of: 'line';
      readonly at: number;
      readonly line: number;
      /** `field`, `formula`, `policy`, `reference`; blank for the line as a whole. */
      readonly member: string;
    };

/** Returns the place that a path names. */
export function parsePlace(path: string): RulePlace {
  const [part = '', index, ...rest] = path.split('/');
  if (part === 'trigger') return { of: 'trigger', rest: index === undefined ? [] : [index, ...rest] };
  const at = Number(index);
  if (index === undefined || !Number.isInteger(at)) return { of: 'rule', member: path };
  if (part === 'finds') return { of: 'find', at, rest };
  if (part !== 'actions') return { of: 'rule', member: path };
  const [list, line, member = ''] = rest;
  return list === 'lines' && line !== undefined && Number.isInteger(Number(line))
    ? { of: 'line', at, line: Number(line), member }
    : { of: 'action', at, rest };
}

/** Returns the path of a place. */
export function printPlace(place: RulePlace): string {
  switch (place.of) {
    case 'rule':
      return place.member;
    case 'trigger':
      return ['trigger', ...place.rest].join('/');
    case 'find':
      return ['finds', place.at, ...place.rest].join('/');
    case 'action':
      return ['actions', place.at, ...place.rest].join('/');
    case 'line':
      return ['actions', place.at, 'lines', place.line, ...(place.member === '' ? [] : [place.member])].join(
        '/',
      );
  }
}

/** Returns the number of the action that a place belongs to; undefined outside of all actions. */
export function actionOf(place: RulePlace): number | undefined {
  return place.of === 'action' || place.of === 'line' ? place.at : undefined;
}

import type { CompiledAction, CompiledLine, CompiledRule } from '../engine/compiled';
import type { RuleProblem } from '../engine/compiling';
import { nearestName } from '../formula/nearest';
import type { Surroundings } from '../engine/surroundings';
import { patchDocument, type Operation } from '../change/jsonPatch';
import type { Json } from '../model/json';
import { parsePlace } from '../model/place';
import type { Rule, RuleBody } from '../engine/rule';

/** An error keeps a draft from being published; a warning is listed; a note is only told. */
export type Severity = 'error' | 'warning' | 'note';

/** A change of the rule that does away with a finding, to be pressed. */
export interface Fix {
  readonly label: string;
  /** JSON Patch (RFC 6902) on the rule body. */
  readonly patch: readonly Operation[];
}

/** Something about a rule that is wrong or worth knowing before it runs. */
export interface Finding {
  /** The kind, as the index of checks names it. */
  readonly kind: string;
  readonly severity: Severity;
  /** Where in the rule: `actions/0/lines/2/formula`, `trigger/watched/1`, `guard`. */
  readonly at: string;
  readonly message: string;
  readonly fix?: Fix;
  /** The lookup table that it is about, whose rows may be what has to change. */
  readonly table?: string;
}

/** What a check looks at. */
export interface Subject {
  readonly rule: Rule;
  readonly problems: readonly RuleProblem[];
  /** The parts of the rule that compile; undefined when not even its record type is known. */
  readonly compiledParts: CompiledRule | undefined;
  readonly surroundings: Surroundings;
  /** The other rules of the set. */
  readonly others: readonly CompiledRule[];
}

/** One kind of finding. */
export interface Check {
  readonly kind: string;
  /** What the check is about, in one sentence for the documentation. */
  readonly meaning: string;
  readonly find: (subject: Subject) => readonly Omit<Finding, 'kind'>[];
}

/** Returns whether a place is about which field is meant, and not about a formula. */
export function isAboutField(at: string): boolean {
  const place = parsePlace(at);
  return place.of === 'line' ? place.member === 'field' : 'rest' in place && place.rest.at(-1) === 'field';
}

/** Returns the rule as a fix leaves it; the rule itself when the fix does not fit any more. */
export function applyFix(body: RuleBody, fix: Fix): RuleBody {
  const patched = patchDocument(body as unknown as Json, fix.patch);
  // The patch was made for this shape of rule, and what it gives is checked again when it is saved.
  return patched.ok ? (patched.document as unknown as RuleBody) : body;
}

/** Returns every line that compiles, with its place and its action. */
export function linesOf({ compiledParts }: Subject): readonly {
  readonly action: CompiledAction;
  readonly line: CompiledLine;
  readonly at: string;
}[] {
  return (compiledParts?.actions ?? []).flatMap((action) =>
    action.lines.map((line) => ({ action, line, at: `actions/${action.at}/lines/${line.at}` })),
  );
}

/** Returns a fix that puts another formula in the place of one. */
export function replaceFormula(label: string, at: string, formula: string): Fix {
  return { label, patch: [{ op: 'replace', path: `/${at}`, value: formula }] };
}

/** Returns a fix that puts the nearest of some options in the place of a text in a formula; undefined where none is near. */
export function useNearest(
  text: string,
  options: readonly string[],
  at: string,
  formula: string,
): Fix | undefined {
  const near = nearestName(text, options);
  const quoted = `"${text.replaceAll('"', '""')}"`;
  return near === undefined || !formula.includes(quoted)
    ? undefined
    : replaceFormula(
        `Use “${near}”`,
        at,
        formula.replace(quoted, () => `"${near}"`),
      );
}

/** Labels in a sentence, the first few of them: “A”, “B” and 3 more. */
export function listed(items: readonly string[], most = 4): string {
  const shown = items.slice(0, most).map((item) => `“${item}”`);
  const more = items.length - shown.length;
  if (more > 0) return `${shown.join(', ')} and ${more} more`;
  return shown.length > 1 ? `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}` : shown.join('');
}

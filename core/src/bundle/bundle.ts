import Joi from 'joi';
import { ownDefinition } from '../model/counterpart';
import { ruleBodySchema, type Rule, type RuleBody } from '../engine/rule';
import { sampleSchema, type Sample } from '../model/sample';
import { Catalog, systemSchema, type System } from '../model/system';
import type { Surroundings } from '../engine/surroundings';
import { ensemble, type Ensemble } from '../replay/replay';
import { TableIndex } from '../table/tableIndex';
import { bundleFormat, inThisFormat, type Upgraded } from './format';
import { tableSchema, type LookupTable } from '../table/table';

/** A rule with what is the same for it in every environment. */
export interface BundledRule {
  readonly id: string;
  /** Whether it runs, as far as the bundle says. */
  readonly published: boolean;
  /** Absent where it is in none. */
  readonly folder?: string;
  readonly rule: RuleBody;
}

/** A system with how it is reached; addresses and secrets differ by environment and are not in a bundle. */
export interface BundledSystem {
  readonly system: System;
  readonly connection?: Readonly<Record<string, unknown>>;
}

/** An outside address that rules send to, by name: where it leads is said by each environment. */
export interface BundledAddress {
  readonly key: string;
  readonly name: string;
}

/** A file with systems, tables, rules and samples, or some of them: what is carried to another environment. */
export interface Bundle {
  /** The version of the format. */
  readonly vastKnot: typeof bundleFormat;
  readonly systems?: readonly BundledSystem[];
  readonly addresses?: readonly BundledAddress[];
  readonly tables?: readonly LookupTable[];
  readonly rules?: readonly BundledRule[];
  readonly samples?: readonly Sample[];
}

export const bundleSchema = Joi.object<Bundle>({
  vastKnot: Joi.valid(bundleFormat).required(),
  systems: Joi.array().items(
    Joi.object<BundledSystem>({ system: systemSchema.required(), connection: Joi.object().unknown() }),
  ),
  addresses: Joi.array().items(
    Joi.object<BundledAddress>({
      key: Joi.string().max(80).required(),
      name: Joi.string().max(120).required(),
    }),
  ),
  tables: Joi.array().items(tableSchema),
  rules: Joi.array().items(
    Joi.object<BundledRule>({
      id: Joi.string().guid().required(),
      published: Joi.boolean().required(),
      folder: Joi.string().trim().max(80),
      rule: ruleBodySchema.required(),
    }),
  ),
  samples: Joi.array().items(sampleSchema),
});

/** Several bundles as one whole. */
export type WholeBundle = Required<Omit<Bundle, 'vastKnot'>>;

/** A bundle with nothing in it. */
export const emptyBundle: WholeBundle = { systems: [], addresses: [], tables: [], rules: [], samples: [] };

/** What is wrong with a bundle: in which file, at which place, and why. */
interface BundleProblem {
  readonly file: string;
  readonly at: string;
  readonly message: string;
}

/**
 * Reads bundles as JSON has them and puts them together; unknown keys and names that stand twice are refused. Files of an older format are
 * read as this one has them, and what is other in them is told.
 */
export function readBundles(
  files: readonly { readonly file: string; readonly json: unknown }[],
):
  | { readonly ok: true; readonly bundle: WholeBundle; readonly upgraded: readonly Upgraded[] }
  | { readonly ok: false; readonly problems: readonly BundleProblem[] } {
  const problems: BundleProblem[] = [];
  const upgraded: Upgraded[] = [];
  const whole = { systems: [], addresses: [], tables: [], rules: [], samples: [] } as {
    -readonly [part in keyof WholeBundle]: WholeBundle[part][number][];
  };
  const seen = new Map<string, string>();
  const once = (file: string, what: string, name: string) => {
    const known = seen.get(`${what} ${name}`);
    if (known !== undefined)
      problems.push({ file, at: '', message: `The ${what} “${name}” is also in ${known}.` });
    seen.set(`${what} ${name}`, file);
  };
  for (const { file, json: given } of files) {
    const { json, changes } = inThisFormat(given);
    if (changes.length > 0) upgraded.push({ file, changes });
    const { error, value } = bundleSchema.validate(json, { abortEarly: false, convert: false });
    if (error) {
      const found = error.details.map(({ path, message }) => ({
        file,
        at: path.join('/'),
        message: `${message}.`,
      }));
      problems.push(...found);
      continue;
    }
    const { systems = [], addresses = [], tables = [], rules = [], samples = [] } = value as Bundle;
    for (const { system } of systems) once(file, 'system', system.key);
    for (const { name } of tables) once(file, 'table', name);
    for (const { id } of rules) once(file, 'rule', id);
    for (const { id } of samples) once(file, 'sample', id);
    whole.systems.push(...systems);
    // Each file that sends to an address names it.
    whole.addresses.push(...addresses.filter(({ key }) => !whole.addresses.some((each) => each.key === key)));
    whole.tables.push(...tables);
    whole.rules.push(...rules);
    whole.samples.push(...samples);
  }
  return problems.length > 0 ? { ok: false, problems } : { ok: true, bundle: whole, upgraded };
}

/** Returns what the rules of a bundle are compiled against. */
export function surroundingsIn({ systems, tables }: Pick<WholeBundle, 'systems' | 'tables'>): Surroundings {
  return {
    catalog: new Catalog([...systems.map(({ system }) => system), ownDefinition]),
    tables: new Map(tables.map((table) => [table.name, new TableIndex(table)])),
    compiled: new Map(),
  };
}

/** Returns the rules of a bundle as the engine takes them. */
export function rulesIn({ rules }: Pick<WholeBundle, 'rules'>): readonly Rule[] {
  return rules.map(({ id, rule }) => ({ ...rule, id, version: 1 }));
}

/** Returns the rules of a bundle that take part in its replays: those that are published, or all. */
export function ensembleIn(bundle: WholeBundle, surroundings: Surroundings, drafts = false): Ensemble {
  const all = rulesIn(bundle);
  const taking = new Set(bundle.rules.filter((rule) => drafts || rule.published).map(({ id }) => id));
  return ensemble(
    all.filter(({ id }) => taking.has(id)),
    surroundings,
    all,
  );
}

/** Returns what is wrong with a bundle, in a line. */
export function bundleProblemText({ file, at, message }: BundleProblem): string {
  return `${file}${at === '' ? '' : ` at ${at}`}: ${message}`;
}

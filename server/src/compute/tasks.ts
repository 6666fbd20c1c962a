import {
  BeforeWorkspace,
  checkRule,
  ensemble,
  reviewForms,
  runEvent,
  specificationHtml,
  specificationOf,
  specificationSheets,
  withOwnRecord,
  WrittenSoFar,
  type ChangeEvent,
  type CoverageView,
  type DoneWrite,
  type Finding,
  headOfFile,
  proposeLayout,
  workbookOf,
  type BeginningAsked,
  type Proposed,
  type ProposedFrom,
  type WrittenSheet,
  type FileHead,
  type ImportAsked,
  type MadeWhere,
  type SpecifiedFrom,
  type RequestPreview,
  type Rule,
  type RunLeft,
  type StoredRecord,
  type Workspace,
} from '@vast-knot/core';
import { readFiles, type BundlesRead } from './bundles';
import { carried, type CarriedAnswer, type CarriedAsked } from './carried';
import { coverageOf, type RulesAsEdited } from './coverageOf';
import { learn, type LearnAsked, type Learnt } from './learn';
import type { Pages } from './door';
import type { Ready } from './ready';

/** The way out of a task: records of the systems, one by one, by search, or all of a type. Nothing is written. */
interface Door {
  readonly workspace: Workspace;
  readonly pages: Pages;
}

/** What can be asked for, with what comes of it. */
export interface Tasks {
  /** What there is to say about rules as edited; they may apply `known` ones. */
  readonly check: {
    readonly asked: { readonly rules: readonly Rule[]; readonly known: readonly Rule[] };
    readonly answer: readonly (readonly Finding[])[];
  };
  /** What a published rule that a person requests would do; undefined when it is no longer published. */
  readonly preview: {
    readonly asked: { readonly rule: string; readonly event: ChangeEvent };
    readonly answer: RequestPreview | undefined;
  };
  /** The records that an event meets, whichever of the rules looks at them; so many at most. */
  readonly meet: {
    readonly asked: { readonly event: ChangeEvent; readonly rules: readonly Rule[]; readonly most: number };
    readonly answer: readonly StoredRecord[];
  };
  /** What an event would still write, of a run that has `done` some of it. */
  readonly left: {
    readonly asked: { readonly event: ChangeEvent; readonly done: readonly DoneWrite[] };
    readonly answer: RunLeft;
  };
  /** What a document or records tell of a system's record types. */
  readonly learn: { readonly asked: LearnAsked; readonly answer: Learnt };
  /** How a file that came is read, and its first records. */
  readonly fileHead: { readonly asked: BeginningAsked; readonly answer: FileHead };
  /** How a file that came may be laid out, and for which record type; undefined where nothing fits. */
  readonly layout: { readonly asked: ProposedFrom; readonly answer: Proposed | undefined };
  /** A workbook of some sheets. */
  readonly workbook: {
    readonly asked: { readonly sheets: readonly WrittenSheet[] };
    readonly answer: Uint8Array;
  };
  /** What files from another environment hold. */
  readonly bundle: { readonly asked: Pick<ImportAsked, 'files'>; readonly answer: BundlesRead };
  /** What there is to say of rules and samples that come from another environment. */
  readonly carried: { readonly asked: CarriedAsked; readonly answer: CarriedAnswer };
  /** Chosen rules as a document that people read, with what samples give; as a page or a workbook. */
  readonly specification: {
    readonly asked: SpecifiedFrom & MadeWhere & { readonly as: 'html' | 'xlsx' };
    readonly answer: Uint8Array;
  };
  /** How far a lookup table reaches for the keys that records of each place have. */
  readonly coverage: {
    readonly asked: { readonly table: string; readonly rules: RulesAsEdited };
    readonly answer: readonly CoverageView[];
  };
}

export type TaskKind = keyof Tasks;
type Compute<K extends TaskKind> = (
  asked: Tasks[K]['asked'],
  ready: Ready,
  door: Door,
) => Promise<Tasks[K]['answer']> | Tasks[K]['answer'];

/** How each task is computed: of what it is given alone, the same in a thread and in the process itself. */
export const tasks: { readonly [K in TaskKind]: Compute<K> } = {
  check: ({ rules, known }, { rules: running, ...surroundings }) => {
    const all = { ...surroundings, rules: new Map(known.map((rule) => [rule.id, rule])) };
    return rules.map((rule) => checkRule(rule, all, running));
  },

  async preview({ rule: id, event }, { catalog, rules }, { workspace }) {
    const asked = rules.find(({ rule }) => rule.id === id);
    if (!asked) return undefined;
    const { report } = await runEvent(event, { catalog, rules, workspace });
    return { report, forms: reviewForms(asked.rule, report) };
  },

  async meet({ event, rules, most }, { catalog, tables }, { workspace }) {
    const { compiled } = ensemble(rules, { catalog, tables, compiled: new Map() });
    const { met } = await runEvent(event, { catalog, rules: compiled, workspace });
    return withOwnRecord(event, met).slice(0, most);
  },

  async left({ event, done }, { catalog, rules }, { workspace }) {
    const written = WrittenSoFar.of(done);
    const before = new BeforeWorkspace(workspace, catalog, written);
    const { report } = await runEvent(event, { catalog, rules, workspace: before });
    return {
      writes: report.writes.flatMap((planned) => {
        const change = written.left(planned.change);
        return change ? [{ ...planned, change }] : [];
      }),
      messages: report.messages.length,
      problems: report.problems,
    };
  },

  learn,
  fileHead: (asked) => headOfFile(asked),
  layout: (asked) => proposeLayout(asked),
  workbook: ({ sheets }) => workbookOf(sheets),
  bundle: readFiles,

  async specification({ rules, known, samples, environment, at, as }, { rules: _running, ...surroundings }) {
    const made = await specificationOf({ rules, known, samples }, surroundings);
    return as === 'xlsx'
      ? specificationSheets(made)
      : new TextEncoder().encode(specificationHtml(made, { environment, at }));
  },
  carried,

  coverage: ({ table, rules }, ready, { pages }) => coverageOf(table, rules, ready, pages),
};

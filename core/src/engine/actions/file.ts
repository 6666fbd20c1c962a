import Joi from 'joi';
import type { Formula } from '../../formula/compile';
import { FormulaError } from '../../formula/error';
import type { Env } from '../../formula/scope';
import { toJson } from '../../formula/toJson';
import { toText } from '../../formula/value';
import { fileNameProblem } from '../../formats/written/fileName';
import { rowWriters } from '../../formats/written';
import type { Json, JsonObject } from '../../model/json';
import { printJson } from '../../model/jsonText';
import { fieldName, formulaText } from '../../model/names';
import type { Branch } from '../branch';
import type { AnyCompiled } from '../compiled';
import { withLinked } from '../follow';
import { noteError, noteStep, type RuleContext } from '../ruleContext';
import type { ActionKindRules, AnyAction } from './kind';
import { toldBy } from './send';
import { triggering } from './targets';

/** Writes a file with a row for each record that the finds reach, once what the rule writes is written. */
export interface FileAction extends AnyAction {
  readonly kind: 'file';
  /** A formula that gives the name; it sees the first row. An ending that is missing is added. */
  readonly name: string;
  /** One of those in which lists are given out: `csv`, `xlsx`, `json lines`. */
  readonly format: string;
  readonly to: FilePlace;
  readonly columns: readonly FileColumn[];
}

/** Where a file goes. */
export type FilePlace =
  /** A folder that the server may write to, by its name; `replace` takes the place of a file that is called the same. */
  | { readonly kind: 'folder'; readonly folder: string; readonly replace?: true }
  /** An outside address, as the body of a signed request. */
  | { readonly kind: 'address'; readonly endpoint: string }
  /** Nowhere: people take it from Messages. */
  | { readonly kind: 'download' };

export interface FileColumn {
  /** Its title; of JSON lines the name of the member. */
  readonly name: string;
  readonly formula: string;
}

/** What a message that is a file holds. */
export interface FileData {
  readonly name: string;
  readonly format: string;
  readonly columns: readonly string[];
  readonly rows: readonly (readonly Json[])[];
  readonly replace?: true;
}

/** The `type` of messages that are files. Others may call theirs so too; what is a file has a way. */
const fileType = 'file';

interface CompiledFile extends AnyCompiled<FileAction> {
  readonly name: Formula | undefined;
  readonly columns: readonly (FileColumn & { readonly compiled: Formula })[];
}

/** Rows that one file takes. */
const mostRows = 20_000;
/** Characters of all its values, written as JSON. */
const mostCharacters = 8_000_000;
/** Rows of a file that a report shows. */
const rowsShown = 20;

const places = ['folder', 'address', 'download'] as const;
const place = Joi.alternatives<FilePlace>().conditional('.kind', {
  switch: [
    {
      is: 'folder',
      then: Joi.object({
        kind: Joi.valid('folder').required(),
        folder: fieldName.required(),
        replace: Joi.valid(true),
      }),
    },
    {
      is: 'address',
      then: Joi.object({ kind: Joi.valid('address').required(), endpoint: fieldName.required() }),
    },
    { is: 'download', then: Joi.object({ kind: Joi.valid('download').required() }) },
  ],
  otherwise: Joi.object({ kind: Joi.valid(...places).required() }).unknown(),
});

export const fileAction: ActionKindRules<FileAction, CompiledFile> = {
  kind: 'file',
  offer: 'Write a file',
  schema: Joi.object<FileAction>({
    kind: Joi.valid('file').required(),
    name: formulaText.required(),
    format: Joi.valid(...rowWriters.map(({ kind }) => kind)).required(),
    to: place.required(),
    columns: Joi.array()
      .items(
        Joi.object<FileColumn>({ name: Joi.string().max(120).required(), formula: formulaText.required() }),
      )
      .max(200)
      .unique('name')
      .required(),
    only: formulaText,
  }),
  target: () => ({ is: 'none' }),
  formulas: ({ name, columns }) => [{ at: 'name', formula: name }, ...toldBy(columns, 'columns')],
  tells: ({ columns }) => toldBy(columns, 'columns'),
  endpoint: ({ to }) => (to.kind === 'address' ? to.endpoint : undefined),
  toEndpoint: (action, endpoint) =>
    action.to.kind === 'address' ? { ...action, to: { ...action.to, endpoint } } : action,
  isEmpty: ({ columns }) => columns.length === 0,
  begin: ({ body }) => ({
    kind: 'file',
    name: `"${body.trigger.recordType} " & TEXT(TODAY(), "yyyy-mm-dd")`,
    format: 'csv',
    to: { kind: 'download' },
    columns: [],
  }),
  summary: () => 'written to a file',

  compile({ name, to, columns }, { compiling, place }) {
    const { surroundings, note, formulaAt } = compiling;
    const unknown = unknownPlace(to, surroundings);
    if (unknown) note(`${place}/to`, unknown);
    return {
      name: formulaAt(`${place}/name`, name),
      columns: columns.flatMap((column, index) => {
        const compiled = formulaAt(`${place}/columns/${index}/formula`, column.formula);
        return compiled ? [{ ...column, compiled }] : [];
      }),
    };
  },

  /** Plans one file with a row for every branch; a cell that cannot be computed keeps it back. */
  async run(action, branches, context) {
    const rows = await triggering(action, branches, context);
    const [first] = rows;
    if (!first) return branches;
    context.counts.reached++;
    const { to, format } = action.action;
    const data = await fileOf(action, rows, context);
    if (data instanceof FormulaError) {
      const message = `The file is not written: ${data.message}`;
      noteError(context.counts, message);
      context.counts.beyondLines = true;
      context.steps.push({ kind: 'problem', message, ref: first.branch.self });
      return branches;
    }
    const endpoint = addressed(to);
    const message = {
      id: context.freshId(),
      endpoint,
      type: fileType,
      ref: first.branch.self,
      data: asJson(data),
      way: to.kind,
    };
    context.messages.push(message);
    noteStep(context, {
      kind: 'file',
      action: action.at,
      endpoint,
      way: to.kind,
      name: data.name,
      format,
      columns: data.columns,
      rows: data.rows.length,
      first: data.rows.slice(0, rowsShown),
    });
    return branches;
  },
};

/** Returns why a file cannot go where it is to go, where that is known. */
function unknownPlace(
  to: FilePlace,
  known: { readonly endpoints?: ReadonlySet<string>; readonly folders?: ReadonlySet<string> },
): string | undefined {
  if (to.kind === 'address' && known.endpoints && !known.endpoints.has(to.endpoint))
    return `There is no endpoint “${to.endpoint}”.`;
  if (to.kind === 'folder' && known.folders && !known.folders.has(to.folder))
    return `There is no folder “${to.folder}” that this server may write to (OUT_FOLDERS).`;
  return undefined;
}

function addressed(to: FilePlace): string {
  switch (to.kind) {
    case 'folder':
      return to.folder;
    case 'address':
      return to.endpoint;
    case 'download':
      return to.kind;
  }
}

async function fileOf(
  { action: { format, to }, name, columns }: CompiledFile,
  rows: readonly { readonly branch: Branch; readonly env: Env }[],
  { workspace }: RuleContext,
): Promise<FileData | FormulaError> {
  if (rows.length > mostRows)
    return because(`it would have ${count(rows.length)} rows, and ${count(mostRows)} are written at most.`);
  const envs = await withLinked(
    [...(name ? [name] : []), ...columns.map(({ compiled }) => compiled)],
    rows.map(({ env }) => env),
    workspace,
  );
  const written: (readonly Json[])[] = [];
  let characters = 0;
  for (const [at, { branch, env }] of rows.entries()) {
    const row: Json[] = [];
    for (const { name: title, compiled } of columns) {
      const lost = compiled.uses.some(({ of }) => branch.lost.get(of) === 'failed');
      const value = lost ? because('it needs a record that was not created.') : compiled.run(envs[at] ?? env);
      if (value instanceof FormulaError) return because(`row ${at + 1}, ${title}: ${value.message}`);
      const json = toJson(value);
      characters += typeof json === 'string' ? json.length : printJson(json).length;
      row.push(json);
    }
    if (characters > mostCharacters)
      return because(`it would hold more than ${count(mostCharacters)} characters, at row ${count(at + 1)}.`);
    written.push(row);
  }
  const named = nameOf(name, envs[0], format);
  if (named instanceof FormulaError) return named;
  return {
    name: named,
    format,
    columns: columns.map((column) => column.name),
    rows: written,
    ...(to.kind === 'folder' && to.replace && { replace: true }),
  };
}

function nameOf(name: Formula | undefined, env: Env | undefined, format: string): string | FormulaError {
  const value = name && env ? name.run(env) : null;
  if (value instanceof FormulaError) return because(`its name: ${value.message}`);
  const ending = rowWriters.find(({ kind }) => kind === format)?.ending ?? '';
  const text = (value === null ? '' : toText(value)).trim();
  const whole = text === '' || text.toLowerCase().endsWith(ending) ? text : `${text}${ending}`;
  const problem = fileNameProblem(whole);
  return problem === undefined ? whole : because(problem);
}

const because = (sentence: string) => new FormulaError('value', sentence);
const count = (number: number) => number.toLocaleString('en');

function asJson({ name, format, columns, rows, replace }: FileData): JsonObject {
  return {
    name,
    format,
    columns: [...columns],
    rows: rows.map((row) => [...row]),
    ...(replace && { replace }),
  };
}

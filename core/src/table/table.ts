import Joi from 'joi';
import { longNumberSchema } from '../model/longNumber';
import type { Json } from '../model/json';

export const columnTypes = ['text', 'integer', 'decimal', 'boolean', 'date'] as const;
export type ColumnType = (typeof columnTypes)[number];

export interface TableColumn {
  readonly name: string;
  readonly label: string;
  readonly type: ColumnType;
  readonly key: boolean;
}

/** One value per column, in the order of the columns: JSON of the column's type, null for blank. */
export type Row = readonly Json[];

/**
 * How keys are compared: `exact`; `caseless`, by Unicode case folding; or `range`, where the last key column holds
 * lower bounds and a row holds from its bound up to the next one.
 */
export const matchings = ['exact', 'caseless', 'range'] as const;
export type Matching = (typeof matchings)[number];

/** What a key without a row gives: blank, the key itself, an error that stops the line, or the default row. */
export const missPolicies = ['blank', 'keep', 'stop', 'default'] as const;
export type MissPolicy = (typeof missPolicies)[number];

/** Keyed rows that turn values of one system into those of another. */
export interface LookupTable {
  readonly name: string;
  readonly columns: readonly TableColumn[];
  readonly rows: readonly Row[];
  readonly matching: Matching;
  readonly onMiss: MissPolicy;
  /** Values for a key that has no row, with `onMiss: 'default'`; the key columns are not read. */
  readonly defaultRow?: Row;
  /** Names of two date columns: a row holds from the first day up to the last, both included; blank is open. */
  readonly validity?: { readonly from: string; readonly to: string };
}

/** A table without its rows. */
export type TableDefinition = Omit<LookupTable, 'rows'>;

/** Most rows that one table may have. */
export const mostRows = 1_000_000;

const cell = Joi.alternatives(
  Joi.string().allow('').max(4000),
  Joi.number(),
  Joi.boolean(),
  Joi.valid(null),
  longNumberSchema,
);
const row = Joi.array().items(cell);

const definitionKeys = {
  name: Joi.string().max(80).required(),
  columns: Joi.array()
    .items(
      Joi.object<TableColumn>({
        name: Joi.string()
          .pattern(/^[^"]+$/)
          .max(80)
          .required(),
        label: Joi.string().max(120).required(),
        type: Joi.valid(...columnTypes).required(),
        key: Joi.boolean().required(),
      }),
    )
    .min(2)
    .max(50)
    .unique('name')
    .has(Joi.object({ key: Joi.valid(true) }).unknown())
    .required(),
  matching: Joi.valid(...matchings).required(),
  onMiss: Joi.valid(...missPolicies).required(),
  defaultRow: row,
  validity: Joi.object({ from: Joi.string().required(), to: Joi.string().required() }),
};

export const tableDefinitionSchema: Joi.ObjectSchema<TableDefinition> =
  Joi.object<TableDefinition>(definitionKeys);

export const tableSchema: Joi.ObjectSchema<LookupTable> = Joi.object<LookupTable>({
  ...definitionKeys,
  rows: Joi.array().items(row).max(mostRows).required(),
});

/** A row of a table that is edited: an id that stays, and its values. */
export interface KeptRow {
  readonly id: number;
  readonly cells: Row;
}

export const rowCells: Joi.ArraySchema<Json[]> = row;

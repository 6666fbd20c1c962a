import type Joi from 'joi';
import type { Json, JsonObject } from '../../model/json';
import type { WritingTools } from '../written/rowWriter';
import type { ResultRow } from './result';

/** A record of a file as the file has it, or why it cannot be read. */
export type FileRow = {
  /** Where it stands, as a person counts: `row 3`, `record 7`. */
  readonly place: string;
  /** Which of the file it is, from 1; a line of titles counts. */
  readonly at: number;
} & (
  | { readonly ok: true; readonly value: JsonObject }
  | { readonly ok: false; readonly because: string; readonly text: string }
);

/** How files of a kind are read: the kind, and what else has to be known. */
export interface FormatSettings {
  readonly kind: string;
}

/** What is seen of a file before it is read: its name, and its first bytes, unpacked. */
export interface Beginning {
  readonly name: string;
  readonly bytes: Uint8Array;
  /** Whether this is all there is. */
  readonly whole: boolean;
}

/** A place within a record of a file, ready to be read. */
export interface Address {
  /** How it is written. */
  readonly text: string;
  /** Returns what stands there: a list where there are several, null where there is nothing. */
  readonly read: (value: JsonObject) => Json;
}

/** An address ready to be read, or the sentence that says why it is none. */
export type AddressRead =
  { readonly ok: true; readonly address: Address } | { readonly ok: false; readonly because: string };

/** A part of a record as the file has it, to be shown: what it is called, the value that stands there, and how it is addressed. */
export interface ShownPart {
  readonly label: string;
  readonly text?: string;
  readonly address?: string;
  readonly parts?: readonly ShownPart[];
}

/** One kind of file: how it is recognised, read, addressed and shown. */
export interface FileFormat<S extends FormatSettings = FormatSettings> {
  readonly kind: S['kind'];
  /** What people call it. */
  readonly name: string;
  readonly mediaTypes: readonly string[];
  /** Endings of file names, with the dot. */
  readonly endings: readonly string[];
  /** What its settings must be. */
  readonly settings: Joi.Schema;
  /** How a file of this kind is read as a rule, where nothing was found out. */
  readonly usual: S;
  /** Returns how a file is to be read when it looks like one of this kind; undefined when it does not. */
  recognise(beginning: Beginning): S | undefined;
  /**
   * Returns the records of a file as they come, some at a time. One that cannot be read is told of in its place, and the others go on; a file that is not of the
   * format gives one such record.
   */
  read(bytes: AsyncIterable<Uint8Array>, settings: S): AsyncIterable<readonly FileRow[]>;
  /** Returns what a written address means. */
  address(text: string): AddressRead;
  /** An address as one is written, for whoever has not written one before. */
  readonly example: string;
  /** Writes records with what became of each, in the format that they came in. Text is UTF-8. */
  result(rows: AsyncIterable<ResultRow>, settings: S, tools?: WritingTools): AsyncGenerator<Uint8Array>;
  /** Returns a record in its own shape. */
  shown(value: JsonObject): readonly ShownPart[];
}

/** Longest text of one record, in characters: a file that never ends its first record is no file of records. */
export const longestRecord = 5_000_000;

/** Returns a piece of text that is short enough to be kept with a reason. */
export function excerpt(text: string): string {
  return text.length > 500 ? `${text.slice(0, 500)}…` : text;
}

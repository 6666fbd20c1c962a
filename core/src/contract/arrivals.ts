/** Between server and web: files that came in. Types only. */
import type { FileHead } from '../arrival/head';
import type { Layout } from '../arrival/layout';
import type { LineProblem } from '../arrival/lay';
import type { FileSource } from '../arrival/source';
import type { RowStanding } from '../arrival/standing';
import type { Report } from '../engine/report';
import type { JsonObject } from '../model/json';
import type { ExistingDifference } from '../reconcile/judge';
import type { JobView } from './jobs';
import type { InboxState, RunResult } from './runs';

/** How a file came: dropped on the page, sent to its address with a token, fetched from an address, or found in a folder. */
export type ArrivalWay = 'page' | 'address' | 'fetched' | 'folder';

/** Where files come from, and how the last look went. */
export interface FileSourceView extends FileSource {
  readonly id: string;
  readonly revision: number;
  /** Whether its header has a secret to carry. */
  readonly hasSecret: boolean;
  readonly changedBy: string;
  /** ISO 8601; null before the first look. */
  readonly lookedAt: string | null;
  /** Why the last look found nothing; null where it went well. */
  readonly problem: string | null;
  /** Since when a file is missing that was expected; null where none is. */
  readonly missingSince: string | null;
  /** The last file that came from it. */
  readonly last: { readonly id: string; readonly name: string; readonly cameAt: string } | null;
}

/** What is kept of a source: a secret that is not said stays as it is. */
export interface FileSourceChange extends FileSource {
  readonly secret?: string;
}

/** The sources, and the folders that the server may watch. */
export interface FileSourceList {
  readonly sources: readonly FileSourceView[];
  readonly folders: readonly string[];
}

/** A file that came, as a list shows it. */
export interface ArrivalSummary {
  readonly id: string;
  readonly name: string;
  readonly bytes: number;
  readonly way: ArrivalWay;
  readonly sentBy: string;
  /** ISO 8601. */
  readonly cameAt: string;
  /** What its records become; null until somebody says. */
  readonly system: string | null;
  readonly recordType: string | null;
  /** Why it cannot be read; blank where it can. */
  readonly problem: string;
  readonly counts: Readonly<Record<RowStanding, number>>;
  /** Of the rows that were chosen: those of which a run was begun, by what it came to. */
  readonly chosen: number;
  readonly written: number;
  readonly failed: number;
  readonly underWay: number;
  /** The job that looks, or looked; null before the first look, and once it is forgotten. */
  readonly look: JobView | null;
  /** The last job that applies; null before the first. */
  readonly applying: JobView | null;
}

/** A file that came, with its beginning and how it is laid out. */
export interface ArrivalView extends ArrivalSummary {
  readonly layout: Layout | null;
  readonly revision: number;
  readonly head: FileHead;
  /** Whether the layout, or a cell that was mended, is another than that of the last look. */
  readonly changedSince: boolean;
  /** Rows whose key stands in an earlier row of the file as well. */
  readonly twice: number;
  /** A file with the same content that came earlier and was applied; null where there is none. */
  readonly sameAs: {
    readonly id: string;
    readonly name: string;
    readonly cameAt: string;
    readonly applied: number;
  } | null;
}

/** One record of a file. */
export interface ArrivalRow {
  readonly at: number;
  /** As a person counts: `row 3`. */
  readonly place: string;
  /** Its key; null where it could not be laid out, or has none. */
  readonly recordId: string | null;
  readonly standing: RowStanding;
  readonly because: string;
  /** What it was laid out as. */
  readonly record: JsonObject;
  readonly differences: readonly ExistingDifference[];
  /** Values that were typed here in the place of those of the file, by field. */
  readonly mends: Readonly<Record<string, string>>;
  /** The first row of this file with the same key; null where it is this one. */
  readonly sameKeyAs: number | null;
  /** When a row with the same key was applied from an earlier file; null where none was. */
  readonly appliedBefore: string | null;
  readonly chosen: boolean;
  readonly run: {
    readonly id: string;
    readonly state: InboxState;
    readonly result: RunResult | null;
    readonly because: string;
  } | null;
}

export interface ArrivalRowPage {
  readonly rows: readonly ArrivalRow[];
  readonly total: number;
  /** How many of them can be applied: they would do something, and no run was begun for them. */
  readonly writable: number;
  /** Where the next ones begin; null on the last page. */
  readonly next: number | null;
}

/** One record of a file in full. */
export interface ArrivalRowWhole {
  readonly row: ArrivalRow;
  /** As the file has it; null where it could not be read. */
  readonly value: JsonObject | null;
  /** The text of a row that could not be read. */
  readonly text: string;
  readonly problems: readonly LineProblem[];
  /** What its rules would do, step by step; null where it could not be laid out. */
  readonly report: Report | null;
}

/** Which rows are looked for. */
export interface ArrivalFilter {
  readonly standing?: RowStanding;
  readonly search?: string;
  readonly outcome?: 'written' | 'failed' | 'under way';
}

import type { Row } from '@vast-knot/core';
import type { Edits } from './rowEdits';

/** Edits that are not saved outlive the page they were made on: they are kept in this window until they are saved or dropped. */
const keyOf = (table: string): string => `vast-knot rows of ${table}`;

export function keptEdits(table: string): Edits {
  try {
    const kept: unknown = JSON.parse(window.sessionStorage.getItem(keyOf(table)) ?? '[]');
    return new Map(Array.isArray(kept) ? kept.filter(isEdit) : []);
  } catch {
    // What cannot be read is none of ours.
    return new Map();
  }
}

export function keepEdits(table: string, edits: Edits): void {
  try {
    if (edits.size === 0) window.sessionStorage.removeItem(keyOf(table));
    else window.sessionStorage.setItem(keyOf(table), JSON.stringify([...edits]));
  } catch {
    // A window that keeps nothing asks before it is left.
  }
}

function isEdit(value: unknown): value is [number, Row | null] {
  return (
    Array.isArray(value) &&
    value.length === 2 &&
    typeof value[0] === 'number' &&
    (value[1] === null || Array.isArray(value[1]))
  );
}

import type { Json } from '../model/json';
import { jsonNumber, scalarText } from '../model/jsonText';
import type { ColumnType } from './table';

/** Returns what a person typed or a file holds, as the JSON of a column; text that does not fit stays text, for the check to name. */
export function readCell(type: ColumnType, typed: string): Json {
  const text = typed.trim();
  if (text === '') return null;
  switch (type) {
    case 'integer':
    case 'decimal':
      return /^[-+]?(\d+\.?\d*|\.\d+)$/.test(text) ? jsonNumber(text.replace(/^\+/, '')) : text;
    case 'boolean': {
      const word = text.toLowerCase();
      if (['true', 'yes', '1'].includes(word)) return true;
      return ['false', 'no', '0'].includes(word) ? false : text;
    }
    case 'text':
      return typed;
    case 'date':
      return text;
  }
}

/** Returns a cell as text, as it is typed again. */
export function showCell(value: Json | undefined): string {
  return scalarText(value);
}

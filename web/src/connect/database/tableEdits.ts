import type { DatabaseDraft, RowListening, TableStyle } from '@vast-knot/core';
import { every } from '../every';
import { withConnection } from '../styleEdits';

/** Changes how the rows of a record type are reached. */
export function withTable(
  draft: DatabaseDraft,
  type: string,
  change: (style: TableStyle) => TableStyle,
): DatabaseDraft {
  const { recordTypes } = draft.connection;
  const style = recordTypes[type];
  return style ? withConnection(draft, { recordTypes: { ...recordTypes, [type]: change(style) } }) : draft;
}

/** Returns a way of listening as a sentence goes on after “are”: “noted by a trigger, compared every hour”. */
export function listeningWords({ asked, compared, noted }: RowListening): string {
  const parts = [
    noted === true && 'noted by a trigger',
    asked && `asked for every ${every(asked.everySeconds)}`,
    compared && `compared every ${every(compared.everySeconds)}`,
  ].filter((part) => part !== false && part !== undefined);
  return parts.length === 0 ? 'compared at night' : parts.join(', ');
}

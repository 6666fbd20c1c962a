import type { ComponentType } from 'react';
import type { Action, ActionKind } from '@vast-knot/core';
import { ApplyClause } from './ApplyClause';
import type { ClauseProps } from './clauseProps';
import { FileClause } from './FileClause';
import { RemoveClause } from './RemoveClause';
import { SendClause } from './SendClause';
import { TidyClause } from './TidyClause';

/** How each kind of action stands on the sheet: as a ledger, or as a clause of its own. */
export const clauses: {
  readonly [Kind in ActionKind]: 'ledger' | ComponentType<ClauseProps<Extract<Action, { kind: Kind }>>>;
} = {
  write: 'ledger',
  create: 'ledger',
  copy: 'ledger',
  send: SendClause,
  file: FileClause,
  tidy: TidyClause,
  apply: ApplyClause,
  remove: RemoveClause,
};

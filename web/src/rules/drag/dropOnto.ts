import { hasLedger, printPath, type RuleBody } from '@vast-knot/core';
import { moveLine, setLine } from '../ledger/lineEdits';
import type { Dragged, DropPlace } from './useLineDrag';

/** Returns the draft after something was dropped onto a target field: a value becomes its formula, a line changes its target. */
export function dropOnto(body: RuleBody, dragged: Dragged, { action, field }: DropPlace): RuleBody {
  const target = body.actions[action];
  if (!target || !hasLedger(target)) return body;
  if (dragged.kind === 'value') {
    const formula = printPath(dragged.path.split('.'));
    return { ...body, actions: body.actions.with(action, setLine(target, field, { formula })) };
  }
  if (dragged.action !== action || dragged.field === field) return body;
  return { ...body, actions: body.actions.with(action, moveLine(target, dragged.field, field)) };
}

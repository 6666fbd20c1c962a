import { hasLedger, moved, printPath, type RuleBody } from '@vast-knot/core';
import { moveLine, setLine } from '../ledger/lineEdits';
import type { Dragged, DropPlace } from './useLineDrag';

/**
 * Returns the draft after something was dropped. Onto a target field: a value becomes its formula, a line changes its target. Onto another
 * find or action: that is where it stands then.
 */
export function dropOnto(body: RuleBody, dragged: Dragged, place: DropPlace): RuleBody {
  if (dragged.kind === 'part')
    return place.kind === 'part' && place.of === dragged.of
      ? moved(body, dragged.of, dragged.at, place.at)
      : body;
  if (place.kind === 'part') return body;
  const { action, field } = place;
  const target = body.actions[action];
  if (!target || !hasLedger(target)) return body;
  if (dragged.kind === 'value') {
    const formula = printPath(dragged.path.split('.'));
    return { ...body, actions: body.actions.with(action, setLine(target, field, { formula })) };
  }
  if (dragged.action !== action || dragged.field === field) return body;
  return { ...body, actions: body.actions.with(action, moveLine(target, dragged.field, field)) };
}

import { Fragment, memo, useCallback, useMemo, useState } from 'react';
import {
  creates,
  hasLedger,
  parsePlace,
  writableFields,
  readPath,
  targetName,
  type CompiledWrite,
  type Finding,
  type LeafField,
  type RecordType,
  type Sample,
  type LedgerAction,
} from '@vast-knot/core';
import { printLineKey } from '../lineKey';
import { useMay } from '../../frame/useMay';
import type { Known } from '../../work/known';
import { FindingNotes } from '../findings/FindingNote';
import { useLive } from '../live/useLive';
import type { LiveReach } from '../live/useReach';
import { mistakesAt, noMistakes, StateProvider, useSheetTools, type SheetState } from '../SheetContext';
import { LedgerRow } from './LedgerRow';
import { LedgerToolbar } from './LedgerToolbar';
import { LineDetail } from './LineDetail';
import { withoutReference } from './lineEdits';
import { groupLeaves, sortLeaves } from './rowOrder';
import { SelectionBar } from './SelectionBar';
import { SuggestionBar } from './SuggestionBar';
import { ActionHead } from './ActionHead';
import { PartPlace } from '../part/PartPlace';
import { WhoseValues } from './WhoseValues';
import { useLedgerClipboard } from './useLedgerClipboard';
import { useRowActions } from './useRowActions';
import type { LedgerView } from './useLedgerView';
import { useSuggestions } from './useSuggestions';

interface LedgerProps {
  readonly at: number;
  readonly action: LedgerAction;
  readonly state: SheetState;
  readonly system: string;
  readonly type: RecordType;
  readonly compiled: CompiledWrite | undefined;
  readonly reach: LiveReach;
  /** Which of the reached records the values are of. */
  readonly present: number;
  readonly known: Known;
  readonly ruleId: string;
  readonly samples: readonly Sample[];
  readonly view: LedgerView;
  /** Whether this is the ledger into which lines are pasted. */
  readonly current: boolean;
  /** The field at hand, if it is one of this ledger. */
  readonly active: string | undefined;
  readonly setActive: (line: string | undefined) => void;
}

const noFindings: readonly Finding[] = [];

/** One row per target field: how its value is made, what it would be for the sample, what is there now. */
export const Ledger = memo(function Ledger(props: LedgerProps) {
  const {
    at,
    action,
    state,
    system,
    type,
    compiled,
    reach,
    present,
    known,
    ruleId,
    samples,
    view,
    current,
    active,
    setActive,
  } = props;
  const { ids, at: shownAt, values: live } = useLive(compiled, reach, present);
  const { edit, fix } = useSheetTools();
  const { body, findings, problems, scopeAt } = state;
  const mayChange = useMay('rules.edit');
  const place = `actions/${at}`;
  const setAction = useMemo(
    () => (change: (action: LedgerAction) => LedgerAction, part?: string) =>
      edit((known) => {
        const before = known.actions[at];
        const after = before && hasLedger(before) ? change(before) : before;
        return after === before || !after ? known : { ...known, actions: known.actions.with(at, after) };
      }, part),
    [edit, at],
  );
  const leaves = useMemo(
    () => writableFields(type.fields).filter(({ field }) => !field.keptBySystem),
    [type],
  );
  const lineAt = useMemo(
    () => new Map(action.lines.map((line, index) => [line.field, { line, index }])),
    [action],
  );
  const byLine = useMemo(() => findingsByLine(findings, at), [findings, at]);
  const aboutAction = useMemo(() => findings.filter((finding) => finding.at === place), [findings, place]);
  const suggested = useSuggestions(view.suggesting && mayChange, { body, ruleId, at, samples }, known);
  const makes =
    creates(action) ||
    body.finds.some(({ alias, none }) => alias === targetName(action) && none === 'create');
  const shown = useShownLeaves(leaves, action, view, (path) => {
    if (path === active) return true;
    const index = lineAt.get(path)?.index;
    switch (view.show) {
      case 'made':
        return index !== undefined;
      case 'open':
        return index === undefined;
      case 'changes':
        return live?.reports.get(path)?.verdict === 'changes';
      case 'findings':
        return index !== undefined && byLine.has(index);
      case 'all':
        return true;
    }
  });
  const order = shown.flatMap(({ leaves: inside }) => inside.map(({ path }) => path));
  const activate = useCallback(
    (field: string | undefined) =>
      setActive(field === undefined ? undefined : printLineKey({ action: at, field })),
    [setActive, at],
  );
  const { put } = view;
  const showMany = useCallback(
    (field: string) => put({ column: printLineKey({ action: at, field }) }),
    [put, at],
  );
  const rowActions = useRowActions({ at, setAction, setActive: activate, showMany, order });
  const clipboard = useLedgerClipboard({
    action,
    leaves,
    setAction,
    selected: rowActions.selected,
    on: mayChange && current,
  });
  const scope = useMemo(() => scopeAt(place), [scopeAt, place]);
  return (
    <PartPlace of="actions" at={at} className="clause wide">
      <div data-action={at}>
        <span className="ledger-title">
          <StateProvider value={state}>
            <ActionHead at={at} action={action} body={body} system={system} setAction={setAction} />
          </StateProvider>
          <WhoseValues ids={ids} at={shownAt} creates={creates(action)} put={view.put} />
        </span>
        <FindingNotes findings={aboutAction} onFix={fix} />
        <LedgerToolbar view={view} fields={leaves.length} lines={action.lines.length} />
        {view.suggesting && mayChange && (
          <SuggestionBar suggestions={suggested} onAccept={rowActions.acceptAll} />
        )}
        {rowActions.selected.size > 0 && (
          <SelectionBar
            selected={rowActions.selected.size}
            onCopy={clipboard.copy}
            onRemove={rowActions.removeSelected}
            onPolicy={rowActions.setPolicy}
            onClear={rowActions.clear}
          />
        )}
        {clipboard.said !== undefined && (
          <div className="bar small" role="status">
            {clipboard.said}
          </div>
        )}
        <table className="grid boxed ledger" aria-label={`Ledger of ${type.label}`}>
          <thead>
            <tr>
              <th className="w40">
                <span className="visually-hidden">Selected</span>
              </th>
              <th className="of21">Target field</th>
              <th className="of30">How its value is made</th>
              <th>Would be</th>
              <th className="of18">Is now</th>
              <th className="of12">Written</th>
            </tr>
          </thead>
          <tbody>
            {shown.map((group) => (
              <Fragment key={group.title}>
                {group.title !== '' && (
                  <tr className="group-row">
                    <th colSpan={6} scope="colgroup">
                      {group.title} <span className="dim">{group.leaves.length}</span>
                    </th>
                  </tr>
                )}
                {group.leaves.map((leaf) => {
                  const { path } = leaf;
                  const { line, index } = lineAt.get(path) ?? {};
                  const linePlace = `${place}/lines/${index ?? ''}`;
                  const report = live?.reports.get(path);
                  return (
                    <LedgerRow
                      key={path}
                      action={at}
                      makes={makes}
                      unmapped={line ? '' : unmappedText(leaf, action, mayChange)}
                      leaf={leaf}
                      line={line}
                      active={path === active}
                      selected={rowActions.selected.has(path)}
                      view={view.as}
                      findings={(index !== undefined && byLine.get(index)) || noFindings}
                      mistakes={
                        line && path === active
                          ? mistakesAt(problems, `${linePlace}/formula`, line.formula.length)
                          : noMistakes
                      }
                      report={report}
                      now={live && readPath(live.target, path)}
                      known={live !== undefined}
                      suggestion={line ? undefined : suggested?.find(({ field }) => field === path)}
                      scope={path === active ? scope : undefined}
                      rowActions={rowActions.row}
                    >
                      {path === active && line && (
                        <LineDetail
                          scope={scope}
                          leaf={leaf}
                          line={line}
                          compiled={compiled?.lines.find(({ field }) => field === path)}
                          live={live}
                          report={report}
                          set={(change) => rowActions.row.set(path, change)}
                          setReference={(reference) =>
                            reference
                              ? rowActions.row.set(path, { reference })
                              : setAction((known) => withoutReference(known, path))
                          }
                          rowActions={rowActions.row}
                        />
                      )}
                    </LedgerRow>
                  );
                })}
              </Fragment>
            ))}
          </tbody>
        </table>
        {order.length === 0 && <p className="dim">No field is like that.</p>}
      </div>
    </PartPlace>
  );
});

/** Returns the findings of an action by the place of the line that they are about. */
function findingsByLine(
  findings: readonly Finding[],
  action: number,
): ReadonlyMap<number, readonly Finding[]> {
  const byLine = new Map<number, Finding[]>();
  for (const finding of findings) {
    const place = parsePlace(finding.at);
    if (place.of !== 'line' || place.at !== action) continue;
    byLine.set(place.line, [...(byLine.get(place.line) ?? []), finding]);
  }
  return byLine;
}

/** The fields that are shown, sorted and grouped. Which have a formula is looked at once, so that no row jumps while one is typed. */
function useShownLeaves(
  leaves: readonly LeafField[],
  action: LedgerAction,
  { sort, group, show, search }: LedgerView,
  fits: (path: string) => boolean,
) {
  const lookedAt = `${sort}/${group}/${show}/${targetName(action)}`;
  const now = () => ({ lookedAt, made: new Set(action.lines.map(({ field }) => field)) });
  const [kept, setKept] = useState(now);
  if (kept.lookedAt !== lookedAt) setKept(now());
  const wanted = search.toLowerCase();
  const fitting = leaves.filter(
    ({ path, label }) => fits(path) && (wanted === '' || `${label} ${path}`.toLowerCase().includes(wanted)),
  );
  return groupLeaves(sortLeaves(fitting, sort, kept.made), group, kept.made);
}

/** Returns what becomes of a field without a line of its own. */
function unmappedText({ path, field }: LeafField, { kind, lines }: LedgerAction, mayChange: boolean): string {
  if (kind === 'copy') return 'copied';
  if (lines.some((line) => path.startsWith(`${line.field}.`))) return 'written with the whole';
  if (!mayChange) return '';
  return field.type === 'object' ? 'field by field' : 'not written';
}

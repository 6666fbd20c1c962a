import { Button } from '@mantine/core';
import { IconGripVertical } from '@tabler/icons-react';
import { memo, useId, useMemo, type ReactNode } from 'react';
import {
  isJsonObject,
  type Finding,
  type Json,
  type LeafField,
  type LineReport,
  type MappingLine,
  type Scope,
  type Suggestion,
} from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { ReportedValue } from '../../parts/ReportedValue';
import { Elements, isRows, ListRows } from '../../parts/ListRows';
import { Value } from '../../parts/Value';
import { useLineDrag } from '../drag/useLineDrag';
import { FindingNotes } from '../findings/FindingNote';
import { FormulaEditor, type FormulaMistake } from '../formula/FormulaEditor';
import { FormulaText, type FormulaView } from '../formula/FormulaText';
import { useSheetTools } from '../SheetContext';
import { policyShort } from './policyWords';
import { percent } from './SuggestionBar';

/** What can be done with a row; the same functions for all rows of a ledger. */
export interface RowActions {
  readonly set: (field: string, change: Partial<MappingLine>) => void;
  readonly activate: (field: string) => void;
  /** Goes to the formula of the next or previous row; 0 leaves the row. */
  readonly move: (field: string, step: 1 | -1 | 0) => void;
  readonly select: (field: string, extend: boolean) => void;
  readonly accept: (suggestion: Suggestion) => void;
  readonly remove: (field: string) => void;
  /** Shows what the line gives for many records. */
  readonly showMany: (field: string) => void;
}

interface LedgerRowProps {
  readonly action: number;
  /** What becomes of the field without a line: it is not written, or copied. */
  readonly unmapped: string;
  /** Whether the record may be created, so that its system insists on what it requires. */
  readonly makes: boolean;
  readonly leaf: LeafField;
  readonly line: MappingLine | undefined;
  readonly active: boolean;
  readonly selected: boolean;
  readonly view: FormulaView;
  readonly findings: readonly Finding[];
  readonly mistakes: readonly FormulaMistake[];
  readonly report: LineReport | undefined;
  readonly now: Json | undefined;
  /** Whether there is a record whose values are shown. */
  readonly known: boolean;
  readonly suggestion: Suggestion | undefined;
  readonly scope: Scope | undefined;
  readonly rowActions: RowActions;
  /** Shown below the row while it is the one at hand. */
  readonly children?: ReactNode;
}

/** One target field: how its value is made, what it would be, what is there now. */
export const LedgerRow = memo(function LedgerRow(props: LedgerRowProps) {
  const { action, makes, leaf, line, active, selected, findings, report, now, known } = props;
  const { suggestion, rowActions } = props;
  const { path, label, field } = leaf;
  const { fix } = useSheetTools();
  const mayChange = useMay('rules.edit');
  const { over, listeners, setDragNode, setDropNode } = useLineDrag(
    action,
    path,
    field.readOnly !== true,
    line !== undefined,
  );
  const noteId = useId();
  const becomes = line && report && 'json' in report.value ? report.value.json : undefined;
  const isObject = field.type === 'object';
  // What an object becomes is shown below, a column for each of its fields; without a line its fields have rows of their own.
  const listed = isObject ? becomes !== undefined : isRows(becomes) || (known && isRows(now));
  const classes = [line ? '' : 'unmapped', active ? 'at-hand' : '', over ? 'drop-here' : ''];
  return (
    <>
      <tr className={classes.join(' ')} data-field={path} ref={setDropNode}>
        <td className="handle">
          {line && (
            <>
              {mayChange && (
                <span className="grip" title="Drag to another field" ref={setDragNode} {...listeners}>
                  <IconGripVertical size={14} aria-hidden />
                </span>
              )}
              <input
                type="checkbox"
                aria-label={`Select the line of ${label}`}
                checked={selected}
                onChange={(event) =>
                  rowActions.select(
                    path,
                    event.nativeEvent instanceof MouseEvent && event.nativeEvent.shiftKey,
                  )
                }
              />
            </>
          )}
        </td>
        <td>
          {label} {makes && field.required && <span className="required small">required</span>}
          <div className="small dim">
            <span className="mono">{path}</span> {field.type}
            {field.maxLength !== undefined && `\u00a0≤\u00a0${field.maxLength}`}
          </div>
        </td>
        <td className="formula">
          <FormulaCell {...props} describedBy={findings.length > 0 ? noteId : undefined} />
          {!line && suggestion && mayChange && (
            <div className="suggestion">
              <span title={suggestion.because}>
                <FormulaText formula={suggestion.formula} view={props.view} />{' '}
                <span className="small dim">
                  {percent(suggestion.confidence)}: {suggestion.because}
                </span>
              </span>
              <Button
                variant="light"
                size="compact-xs"
                aria-label={`Accept the suggestion for ${label}`}
                onClick={() => rowActions.accept(suggestion)}
              >
                Accept
              </Button>
            </div>
          )}
        </td>
        <td>
          {line && report && !(listed && 'json' in report.value) && (
            <ReportedValue reported={report.value} changes={report.verdict === 'changes'} field={field} />
          )}
          {listed && !isObject && becomes !== undefined && <Elements json={becomes} />}
          {line && report?.verdict === 'kept' && <div className="small dim">kept: {report.because}</div>}
          {line && report?.verdict === 'error' && 'json' in report.value && (
            <div className="value wrong small">{report.because}</div>
          )}
        </td>
        <td>
          {known &&
            !isObject &&
            (listed ? (
              <Elements json={now ?? null} />
            ) : (
              <Value json={now} tone={report?.verdict === 'same' ? 'settled' : 'plain'} field={field} />
            ))}
        </td>
        <td className="small">
          {line && policyShort[line.policy]}
          {line?.reference && <div className="dim breaks">by {line.reference.field}</div>}
        </td>
      </tr>
      {listed && (
        <tr className="rows-row">
          <td />
          <td colSpan={5}>
            {becomes === undefined ? (
              <ListRows field={field} json={now} label={label} />
            ) : (
              <ListRows field={field} before={asList(now ?? null)} json={asList(becomes)} label={label} />
            )}
          </td>
        </tr>
      )}
      {findings.length > 0 && (
        <tr className="finding-row">
          <td />
          <td colSpan={5}>
            <FindingNotes findings={findings} onFix={fix} id={noteId} />
          </td>
        </tr>
      )}
      {active && props.children !== undefined && (
        <tr className="detail-row">
          <td />
          <td colSpan={5}>{props.children}</td>
        </tr>
      )}
    </>
  );
}, sameRow);

/** Returns a list as it is, and an object as the one element of a list. */
const asList = (json: Json): Json => (isJsonObject(json) ? [json] : json);

function FormulaCell(props: LedgerRowProps & { readonly describedBy: string | undefined }) {
  const { leaf, line, active, view, mistakes, scope, rowActions, describedBy, unmapped } = props;
  const { path, label, field } = leaf;
  const { onEditor, aboutValue } = useSheetTools();
  const mayChange = useMay('rules.edit');
  const formula = line?.formula ?? '';
  const keys = useMemo(
    () => ({
      onEnter: () => rowActions.move(path, 1),
      onMove: (step: 1 | -1) => rowActions.move(path, step),
      onEscape: () => rowActions.move(path, 0),
      onChange: (text: string) => rowActions.set(path, { formula: text }),
    }),
    [rowActions, path],
  );
  if (field.readOnly) return <span className="small dim">read-only</span>;
  if (active && mayChange) {
    return (
      <FormulaEditor
        value={formula}
        label={`Formula for ${label}`}
        placeholder="a formula; press a value of the sample to use it"
        scope={scope}
        gives={field}
        about={aboutValue}
        mistakes={mistakes}
        autoFocus
        describedBy={describedBy}
        onFocus={onEditor}
        {...keys}
      />
    );
  }
  return (
    <div
      role="textbox"
      aria-readonly={!mayChange}
      aria-label={`Formula for ${label}`}
      aria-describedby={describedBy}
      aria-invalid={mistakes.length > 0}
      tabIndex={0}
      className="formula-cell"
      onFocus={() => rowActions.activate(path)}
    >
      {formula === '' ? (
        <span className="dim">{unmapped}</span>
      ) : (
        <FormulaText formula={formula} view={view} />
      )}
    </div>
  );
}

/** Returns whether a row would look the same: reports are made anew with every keystroke, and mostly say what they said. */
function sameRow(a: LedgerRowProps, b: LedgerRowProps): boolean {
  return (
    compared.every((name) => a[name] === b[name]) && sameJson(a.now, b.now) && sameReport(a.report, b.report)
  );
}

const compared = [
  'line',
  'active',
  'selected',
  'view',
  'findings',
  'mistakes',
  'suggestion',
  'scope',
  'rowActions',
  'children',
  'known',
  'leaf',
  'action',
] as const satisfies readonly (keyof LedgerRowProps)[];

function sameReport(a: LineReport | undefined, b: LineReport | undefined): boolean {
  if (!a || !b) return a === b;
  if (a.verdict !== b.verdict || a.because !== b.because) return false;
  return 'json' in a.value && 'json' in b.value
    ? sameJson(a.value.json, b.value.json)
    : JSON.stringify(a.value) === JSON.stringify(b.value);
}

function sameJson(a: Json | undefined, b: Json | undefined): boolean {
  return a === b || (typeof a === 'object' && JSON.stringify(a) === JSON.stringify(b));
}

import { memo, useState, type KeyboardEvent } from 'react';
import {
  writePolicies,
  type Json,
  type LeafField,
  type LineReport,
  type MappingLine,
  type WritePolicy,
} from '@vast-knot/core';
import { ReportedValue } from '../bench/RuleReports';
import { useMayChange } from '../frame/useRole';
import { Value } from '../parts/Value';
import { FormulaBox } from './FormulaBox';

interface LedgerRowProps {
  readonly leaf: LeafField;
  readonly line: MappingLine | undefined;
  readonly mistake: string | undefined;
  readonly report: LineReport | undefined;
  readonly now: Json | undefined;
  readonly known: boolean;
  readonly set: (change: Partial<MappingLine>) => void;
  readonly onFocus: (box: HTMLTextAreaElement) => void;
}

const policyWords: Readonly<Record<WritePolicy, string>> = {
  always: 'always',
  'target blank': 'if blank there',
  'value present': 'unless blank',
};

/** One target field. Fields before the first save keep their place while a formula is typed. */
export const LedgerRow = memo(function LedgerRow({
  leaf,
  line,
  mistake,
  report,
  now,
  known,
  set,
  onFocus,
}: LedgerRowProps) {
  const { path, label, field } = leaf;
  const mayChange = useMayChange();
  // An unmapped field's formula is typed here and becomes a line when the box is left, so that the row stays in place.
  const [begun, setBegun] = useState('');
  const commit = () => {
    if (!line && begun.trim() !== '') set({ formula: begun });
    setBegun('');
  };
  const move = (event: KeyboardEvent<HTMLTextAreaElement>) => {
    if (event.key === 'Enter' && !event.shiftKey) {
      event.preventDefault();
      focusRow(event.currentTarget, 1);
    } else if (event.altKey && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
      event.preventDefault();
      focusRow(event.currentTarget, event.key === 'ArrowDown' ? 1 : -1);
    }
  };
  return (
    <tr className={line ? undefined : 'unmapped'} data-field={path}>
      <td>
        {label} {field.required && <span className="required small">required</span>}
        <div className="small dim">
          <span className="mono">{path}</span> {field.type}
          {field.maxLength !== undefined && `\u00a0≤\u00a0${field.maxLength}`}
        </div>
      </td>
      <td className="formula" onBlur={commit}>
        {field.readOnly ? (
          <span className="small dim">read-only</span>
        ) : (
          <FormulaBox
            value={line ? line.formula : begun}
            label={`Formula for ${label}`}
            placeholder={mayChange ? 'not written' : ''}
            mistake={mistake}
            onChange={(formula) => (line ? set({ formula }) : setBegun(formula))}
            onFocus={onFocus}
            onKeyDown={move}
          />
        )}
      </td>
      <td>
        {line && report && <ReportedValue reported={report.value} changes={report.verdict === 'changes'} />}
        {line && report?.verdict === 'kept' && <div className="small dim">kept: {report.because}</div>}
        {line && report?.verdict === 'error' && 'json' in report.value && (
          <div className="value wrong small">{report.because}</div>
        )}
      </td>
      <td>{known && <Value json={now} tone={report?.verdict === 'same' ? 'settled' : 'plain'} />}</td>
      <td>
        {line && (
          <select
            className="plain-select"
            aria-label={`When ${label} is written`}
            value={line.policy}
            disabled={!mayChange}
            onChange={(event) => set({ policy: event.currentTarget.value as WritePolicy })}
          >
            {writePolicies.map((policy) => (
              <option key={policy} value={policy}>
                {policyWords[policy]}
              </option>
            ))}
          </select>
        )}
      </td>
    </tr>
  );
});

/** Goes to the formula of the next or previous row. */
function focusRow(box: HTMLTextAreaElement, step: 1 | -1): void {
  const boxes = [...(box.closest('table')?.querySelectorAll<HTMLTextAreaElement>('textarea') ?? [])];
  boxes[boxes.indexOf(box) + step]?.focus();
}

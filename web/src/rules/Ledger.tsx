import { SegmentedControl, Select, TextInput } from '@mantine/core';
import { useSearchParams } from 'react-router';
import {
  leafFields,
  readPath,
  type JsonObject,
  type LeafField,
  type LineReport,
  type MappingLine,
  type RecordType,
  type WriteAction,
} from '@vast-knot/core';
import { SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import { LedgerRow } from './LedgerRow';
import type { Mistakes } from './preview';

/** A record that the write reaches for the present sample, with what each line gives for it. */
export interface Reached {
  readonly id: string;
  readonly record: JsonObject;
  readonly lines: readonly LineReport[];
}

interface LedgerProps {
  readonly place: string;
  readonly action: WriteAction;
  readonly system: string;
  readonly type: RecordType;
  readonly targets: readonly { readonly value: string; readonly label: string }[];
  readonly mistakes: Mistakes;
  readonly reached: readonly Reached[];
  readonly setAction: (change: (action: WriteAction) => WriteAction) => void;
  readonly onFocus: (box: HTMLTextAreaElement) => void;
}

/** One row per target field: how its value is made, what it would be for the sample, what is there now. */
export function Ledger({
  place,
  action,
  system,
  type,
  targets,
  mistakes,
  reached,
  setAction,
  onFocus,
}: LedgerProps) {
  const [params, setParams] = useSearchParams();
  const show = params.get('show') ?? 'all';
  const search = params.get('field') ?? '';
  const at = Math.min(Number(params.get('record') ?? 0) || 0, Math.max(0, reached.length - 1));
  const put = (name: string, value: string) =>
    setParams(
      (known) => {
        const next = new URLSearchParams(known);
        if (value === '') next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  const present = reached[at];
  const lineFor = (path: string) => action.lines.find(({ field }) => field === path);
  const setLine = (field: string, change: Partial<MappingLine>) =>
    setAction((known) => {
      const line = known.lines.find((each) => each.field === field);
      if (!line)
        return { ...known, lines: [...known.lines, { field, formula: '', policy: 'always', ...change }] };
      if (change.formula === '') return { ...known, lines: known.lines.filter((each) => each !== line) };
      return { ...known, lines: known.lines.map((each) => (each === line ? { ...each, ...change } : each)) };
    });
  const all = leafFields(type.fields).filter(({ field }) => !field.keptBySystem);
  const rows = ordered(all, action).filter(
    ({ path, label }) =>
      (show === 'all' || (show === 'mapped') === (lineFor(path) !== undefined)) &&
      `${label} ${path}`.toLowerCase().includes(search.toLowerCase()),
  );
  return (
    <div className="clause" style={{ gridTemplateColumns: '84px minmax(0, 1fr)' }}>
      <span className="word">then</span>
      <span>
        <span style={{ display: 'inline-flex', alignItems: 'center', gap: 6 }}>
          write to <SystemTag system={system} />
          <Select
            aria-label="Record that is written"
            data={[...targets]}
            value={action.target}
            onChange={(target) => target !== null && setAction((known) => ({ ...known, target }))}
            w={210}
          />
        </span>
        <div style={{ display: 'flex', gap: 10, alignItems: 'center', margin: '6px 0', flexWrap: 'wrap' }}>
          <SegmentedControl
            size="xs"
            aria-label="Fields shown"
            data={[
              { value: 'all', label: `All ${all.length}` },
              { value: 'mapped', label: `With a formula ${action.lines.length}` },
              { value: 'open', label: 'Without' },
            ]}
            value={show}
            onChange={(value) => put('show', value === 'all' ? '' : value)}
          />
          <TextInput
            aria-label="Find a field"
            placeholder="Find a field"
            value={search}
            onChange={(event) => put('field', event.currentTarget.value)}
            w={140}
          />
          {reached.length > 0 ? (
            <span className="small dim" style={{ display: 'inline-flex', gap: 6, alignItems: 'center' }}>
              values of
              <Select
                aria-label="Record whose values are shown"
                data={reached.map(({ id }, index) => ({ value: String(index), label: id }))}
                value={String(at)}
                onChange={(value) => put('record', value === '0' ? '' : (value ?? ''))}
                w={110}
              />
              of {count(reached.length, 'record')} reached by the sample
            </span>
          ) : (
            <span className="small dim">
              The sample reaches no record here, so there are no values to show.
            </span>
          )}
        </div>
        <table
          className="grid boxed ledger"
          style={{ tableLayout: 'fixed' }}
          aria-label={`Ledger of ${type.label}`}
        >
          <thead>
            <tr>
              <th>Target field</th>
              <th style={{ width: '29%' }}>How its value is made</th>
              <th style={{ width: '19%' }}>Would be</th>
              <th style={{ width: '17%' }}>Is now</th>
              <th style={{ width: 118 }}>Written</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((leaf) => {
              const line = lineFor(leaf.path);
              const index = line ? action.lines.indexOf(line) : -1;
              return (
                <LedgerRow
                  key={leaf.path}
                  leaf={leaf}
                  line={line}
                  mistake={
                    line &&
                    (mistakes.get(`${place}/lines/${index}/formula`) ??
                      mistakes.get(`${place}/lines/${index}/field`))
                  }
                  report={present?.lines.find(({ field }) => field === leaf.path)}
                  now={present && readPath(present.record, leaf.path)}
                  known={present !== undefined}
                  set={(change) => setLine(leaf.path, change)}
                  onFocus={onFocus}
                />
              );
            })}
          </tbody>
        </table>
      </span>
    </div>
  );
}

/** Fields with a formula first, then required ones, then the rest in the order of the schema. */
function ordered(leaves: readonly LeafField[], action: WriteAction): readonly LeafField[] {
  const mapped = new Set(action.lines.map(({ field }) => field));
  const rank = ({ path, field }: LeafField) =>
    mapped.has(path) ? 0 : field.readOnly ? 3 : field.required ? 1 : 2;
  return [...leaves].sort((a, b) => rank(a) - rank(b));
}

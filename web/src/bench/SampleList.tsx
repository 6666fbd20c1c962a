import { Button, Select, TextInput } from '@mantine/core';
import { IconChevronDown, IconChevronRight, IconSearch } from '@tabler/icons-react';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { Sample, SampleVerdict } from '@vast-knot/core';
import { useRules } from '../api/queries';
import { useMay } from '../frame/useMay';
import { Verdict } from '../parts/Verdict';
import { VirtualRows } from '../parts/VirtualRows';
import type { SampleResult } from './replay';
import { Removed } from './Removed';
import { SampleRow } from './SampleRow';
import { rowsByRule, type SampleListRow } from './sampleRows';
import { useAddress } from '../parts/useAddress';

const verdictChoices = [
  { value: '', label: 'Every verdict' },
  { value: 'differs', label: 'Differ' },
  { value: 'holds', label: 'Hold' },
  { value: 'nothing expected', label: 'Expect nothing yet' },
];

const orders = [
  { value: '', label: 'As they were made' },
  { value: 'rule', label: 'By rule' },
];

/** Heights of the rows, in pixels; the looks of both are fixed. */
const heightOf = ({ kind }: SampleListRow) => (kind === 'rule' ? 30 : 58);

interface SampleListProps {
  readonly samples: readonly Sample[];
  readonly chosen: string;
  /** What came of replaying them; shorter than the samples while that goes on. */
  readonly results: readonly SampleResult[];
}

/** The samples with a verdict each. */
export function SampleList({ samples, chosen, results }: SampleListProps) {
  const mayChange = useMay('samples.change');
  const [params, put] = useAddress();
  const [search, wanted] = [params.get('find') ?? '', params.get('verdict') ?? ''];
  const known = useMemo(() => new Map(results.map((result) => [result.id, result])), [results]);
  const shown = useMemo(
    () =>
      samples.filter(
        (sample) =>
          (wanted === '' || known.get(sample.id)?.verdict === wanted) &&
          textOf(sample).includes(search.toLowerCase()),
      ),
    [samples, known, search, wanted],
  );
  const query = params.toString();
  const wantsRules = params.get('by') === 'rule';
  // What a sample starts is known once it has been replayed.
  const byRule = wantsRules && results.length > 0;
  const rules = useRules().data;
  const [folded, setFolded] = useState<ReadonlySet<string>>(new Set());
  const rows = useMemo(
    () =>
      byRule
        ? rowsByRule(
            shown,
            known,
            (rules ?? []).map(({ id, draft }) => ({ id, name: draft.name })),
            folded,
          )
        : shown.map((sample): SampleListRow => ({ kind: 'sample', sample })),
    [byRule, shown, known, rules, folded],
  );
  const inSight = useMemo(
    () => ({
      key: `${byRule ? 'by rule' : 'as made'} ${chosen}`,
      index: rows.findIndex((row) => row.kind === 'sample' && row.sample.id === chosen),
    }),
    [byRule, rows, chosen],
  );
  const fold = (id: string) =>
    setFolded((now) => new Set(now.has(id) ? [...now].filter((each) => each !== id) : [...now, id]));
  return (
    <nav aria-label="Samples" className="sample-list">
      <div className="sample-list-head">
        <div className="head">
          <h1>Bench</h1>
          {mayChange && (
            <Button component={Link} to="/bench/new" size="compact-sm" variant="default">
              New sample
            </Button>
          )}
        </div>
        <Link to="/bench/history" className="small">
          Edited against published, over real history
        </Link>
        <Removed />
        <Tally results={results} />
        <TextInput
          aria-label="Find a sample"
          placeholder="Name, tag or record"
          leftSection={<IconSearch size={13} />}
          value={search}
          onChange={({ currentTarget: { value } }) => put({ find: value })}
        />
        <div className="list-choices">
          <Select
            aria-label="Verdict"
            data={verdictChoices}
            value={wanted}
            onChange={(value) => put({ verdict: value ?? '' })}
          />
          <Select
            aria-label="Order of the samples"
            data={orders}
            value={wantsRules ? 'rule' : ''}
            onChange={(value) => put({ by: value ?? '' })}
          />
        </div>
      </div>
      {shown.length === 0 ? (
        <p className="dim list-said">No sample fits.</p>
      ) : (
        <VirtualRows
          label="Samples"
          items={rows}
          keyOf={keyOfRow}
          rowHeight={heightOf}
          inSight={inSight}
          row={(row) =>
            row.kind === 'rule' ? (
              <button
                type="button"
                className="plain sample-folder"
                aria-expanded={!folded.has(row.id)}
                onClick={() => fold(row.id)}
              >
                {folded.has(row.id) ? <IconChevronRight size={14} /> : <IconChevronDown size={14} />}
                <span className="name">{row.name}</span> <span className="dim">{row.samples}</span>
              </button>
            ) : (
              <SampleRow
                sample={row.sample}
                result={known.get(row.sample.id)}
                active={row.sample.id === chosen}
                query={query}
              />
            )
          }
        />
      )}
    </nav>
  );
}

const keyOfRow = (row: SampleListRow) =>
  row.kind === 'rule' ? `rule ${row.id}` : `sample ${row.sample.id} under ${row.under ?? 'none'}`;

function Tally({ results }: { readonly results: readonly SampleResult[] }) {
  const of = (verdict: SampleVerdict) => results.filter((result) => result.verdict === verdict).length;
  const [differ, hold, nothing] = [of('differs'), of('holds'), of('nothing expected')];
  return (
    <p className="tally" role="status" aria-label="Verdicts">
      <Verdict tone={differ > 0 ? 'wrong' : 'quiet'}>{differ} differ</Verdict>
      <Verdict tone="settled">{hold} hold</Verdict>
      {nothing > 0 && <Verdict tone="quiet">{nothing} expect nothing</Verdict>}
    </p>
  );
}

function textOf({ name, tags = [], event }: Sample): string {
  return [name, ...tags, event.ref.recordType, event.ref.id, ...event.changed].join(' ').toLowerCase();
}

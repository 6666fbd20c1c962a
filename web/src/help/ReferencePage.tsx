import { SegmentedControl, TextInput } from '@mantine/core';
import { useDeferredValue } from 'react';
import { useNavigate, useParams } from 'react-router';
import { checks } from '@vast-knot/core';
import { useAddress } from '../parts/useAddress';
import { ApiReference } from './ApiReference';
import { FormulaReference } from './FormulaReference';
import { fits } from './fits';
import members from './ruleMembers.json';
import { words } from './words';

const parts = [
  { value: 'formulas', label: 'Formulas' },
  { value: 'rules', label: 'Parts of a rule' },
  { value: 'findings', label: 'Findings' },
  { value: 'words', label: 'Words' },
  { value: 'api', label: 'The API' },
] as const;

/** The references, to be read and searched: functions with examples that are computed, the parts of a rule, the findings, the words. */
export function ReferencePage() {
  const { part = 'formulas' } = useParams();
  const navigate = useNavigate();
  const [params, put] = useAddress();
  const search = params.get('search') ?? '';
  const wanted = useDeferredValue(search.trim().toLowerCase());
  return (
    <article className="page reference" aria-label="Reference">
      <div className="page-head">
        <h1>Reference</h1>
        <SegmentedControl
          size="xs"
          aria-label="Which reference"
          data={[...parts]}
          value={part}
          onChange={(value) =>
            void navigate(
              `/reference/${value}${search === '' ? '' : `?search=${encodeURIComponent(search)}`}`,
            )
          }
        />
        <span className="end">
          <TextInput
            aria-label="Search the reference"
            placeholder="A name, or what it means"
            value={search}
            onChange={({ currentTarget: { value } }) => put({ search: value })}
            w={240}
          />
        </span>
      </div>
      {part === 'formulas' && <FormulaReference wanted={wanted} tried={params.get('try') ?? ''} put={put} />}
      {part === 'rules' && <RuleReference wanted={wanted} />}
      {part === 'findings' && (
        <Pairs
          heads={['Finding', 'What it is about']}
          pairs={checks.map(({ kind, meaning }) => [kind, meaning])}
          wanted={wanted}
        />
      )}
      {part === 'api' && <ApiReference wanted={wanted} />}
      {part === 'words' && (
        <Pairs heads={['Word', 'What it means']} pairs={Object.entries(words)} wanted={wanted} />
      )}
    </article>
  );
}

interface PairsProps {
  readonly heads: readonly [string, string];
  readonly pairs: readonly (readonly [string, string])[];
  readonly wanted: string;
}

function Pairs({ heads, pairs, wanted }: PairsProps) {
  const shown = pairs.filter((pair) => fits(pair, wanted));
  if (shown.length === 0) return <p className="dim">Nothing in this reference means that.</p>;
  return (
    <table className="grid boxed">
      <thead>
        <tr>
          <th className="of24">{heads[0]}</th>
          <th>{heads[1]}</th>
        </tr>
      </thead>
      <tbody>
        {shown.map(([name, meaning]) => (
          <tr key={name}>
            <td>
              <strong>{name}</strong>
            </td>
            <td>{meaning}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** The members of a rule as they stand in its file. */
function RuleReference({ wanted }: { readonly wanted: string }) {
  const shown = members.filter(({ path, type, bounds }) => fits([path, type, bounds], wanted));
  if (shown.length === 0) return <p className="dim">No part of a rule is called so.</p>;
  return (
    <table className="grid boxed">
      <thead>
        <tr>
          <th className="of42">Part of the file of a rule</th>
          <th className="of16">Type</th>
          <th className="of12">Must be there</th>
          <th>Bounds</th>
        </tr>
      </thead>
      <tbody>
        {shown.map(({ path, type, required, bounds }) => (
          <tr key={path}>
            <td className="mono breaks">{path}</td>
            <td>{type}</td>
            <td>{required ? 'yes' : 'no'}</td>
            <td className="breaks">{bounds.replaceAll('`', '')}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

import { fieldAt, refOf, type OutcomeDifference, type Sample } from '@vast-knot/core';
import { useSystems } from '../api/queries';
import { SystemTag } from '../parts/SystemTag';
import { Loading } from '../parts/states';
import { count } from '../parts/time';
import { Value } from '../parts/Value';
import { Verdict } from '../parts/Verdict';
import { AgainstChoice } from './AgainstChoice';
import type { SampleDifferences } from './replay';
import { SampleHead } from './SampleHead';

interface VersionsViewProps {
  readonly sample: Sample;
  readonly compared: SampleDifferences | undefined;
}

/** One sample under the rules as published and as edited: the fields that they leave differently. */
export function VersionsView({ sample, compared }: VersionsViewProps) {
  return (
    <article className="page" aria-label="What editing changes">
      <SampleHead sample={sample}>
        <AgainstChoice against="both" />
      </SampleHead>
      {compared ? <Differences differences={compared.differences} /> : <Loading />}
    </article>
  );
}

function Differences({ differences }: { readonly differences: readonly OutcomeDifference[] }) {
  if (differences.length === 0) {
    return (
      <div className="note settled" role="status">
        <Verdict tone="settled">The rules as edited do the same as those that are published.</Verdict>
      </div>
    );
  }
  return (
    <>
      <div className="note" role="status">
        <Verdict tone="will">{count(differences.length, 'field')} would come out otherwise.</Verdict>
      </div>
      <table className="grid boxed">
        <thead>
          <tr>
            <th className="of30">Record</th>
            <th className="of20">Field</th>
            <th className="of24">As published</th>
            <th>As edited</th>
          </tr>
        </thead>
        <tbody>
          {differences.map((difference) => (
            <Row key={`${difference.key} ${difference.path}`} difference={difference} />
          ))}
        </tbody>
      </table>
    </>
  );
}

function Row({ difference }: { readonly difference: OutcomeDifference }) {
  const { key, path } = difference;
  const { system, recordType, id } = refOf(key);
  const type = (useSystems().data ?? [])
    .find((each) => each.key === system)
    ?.recordTypes.find(({ name }) => name === recordType);
  const field = type && fieldAt(type.fields, path);
  return (
    <tr>
      <td>
        {type ? (
          <>
            <SystemTag system={system} /> {type.label} <span className="mono">{id}</span>
          </>
        ) : (
          key
        )}
      </td>
      <td>{field?.label ?? path}</td>
      <td>
        {'one' in difference ? (
          <Value json={difference.one} field={field} />
        ) : (
          <span className="dim small">no change</span>
        )}
      </td>
      <td>
        {'other' in difference ? (
          <Value json={difference.other} tone="will" field={field} />
        ) : (
          <span className="dim small">no change</span>
        )}
      </td>
    </tr>
  );
}

import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { Link } from 'react-router';
import { fieldAt, type RecordType, type Standing, type VerifiedRecord } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { useSystems } from '../api/queries';
import { SystemTag } from '../parts/SystemTag';
import { count, shortTime } from '../parts/time';
import { FieldValue } from '../parts/FieldValue';
import { Verdict, type VerdictTone } from '../parts/Verdict';

const standings: Readonly<Record<Standing, readonly [VerdictTone, string]>> = {
  holds: ['settled', 'holds'],
  'changed since': ['will', 'changed since'],
  'never arrived': ['wrong', 'never arrived'],
  gone: ['wrong', 'the record is gone'],
};

/** Whether the records that a run wrote hold what it wrote: read back from each system when asked. */
export function InTheSystems({ run }: { readonly run: string }) {
  const verify = useMutation({ mutationFn: () => ask<VerifiedRecord[]>(`/runs/${run}/verify`) });
  return (
    <section aria-label="In the systems now">
      <h2>
        In the systems now{' '}
        <Button
          size="compact-sm"
          variant="default"
          loading={verify.isPending}
          onClick={() => verify.mutate()}
        >
          {verify.data ? 'Read them again' : 'Read the records back'}
        </Button>
      </h2>
      {verify.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(verify.error)}
        </div>
      )}
      {verify.data && <Verified records={verify.data} />}
    </section>
  );
}

function Verified({ records }: { readonly records: readonly VerifiedRecord[] }) {
  const systems = useSystems().data ?? [];
  const fields = records.flatMap((record) => record.fields);
  const of = (standing: Standing) => fields.filter((field) => field.standing === standing).length;
  const open = records.filter(
    ({ problem, fields: own }) => problem !== null || own.some(({ standing }) => standing !== 'holds'),
  );
  return (
    <>
      <p role="status" className="tally">
        {(Object.keys(standings) as Standing[])
          .filter((standing) => of(standing) > 0)
          .map((standing) => (
            <Verdict key={standing} tone={standings[standing][0]}>
              {count(of(standing), 'field')}: {standings[standing][1]}
            </Verdict>
          ))}
      </p>
      {open.length > 0 && (
        <table className="grid boxed">
          <thead>
            <tr>
              <th className="of24">Record</th>
              <th className="of16">Field</th>
              <th className="of20">Was written</th>
              <th className="of20">Is now</th>
              <th>Standing</th>
            </tr>
          </thead>
          <tbody>
            {open.map((record) => (
              <Rows
                key={`${record.ref.recordType}/${record.ref.id}`}
                record={record}
                type={systems
                  .find(({ key }) => key === record.ref.system)
                  ?.recordTypes.find(({ name }) => name === record.ref.recordType)}
              />
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

function Rows({ record, type }: { readonly record: VerifiedRecord; readonly type: RecordType | undefined }) {
  const { ref, fields, problem } = record;
  const name = (
    <>
      <SystemTag system={ref.system} /> {type?.label}{' '}
      <Link to={`/records?left=${ref.system}/${ref.recordType}/${ref.id}`} className="mono">
        {ref.id}
      </Link>
    </>
  );
  if (problem !== null) {
    return (
      <tr>
        <td>{name}</td>
        <td colSpan={4} className="value wrong">
          {problem}
        </td>
      </tr>
    );
  }
  return fields
    .filter(({ standing }) => standing !== 'holds')
    .map(({ path, written, now, standing, by }) => (
      <tr key={path}>
        <td>{name}</td>
        <td>{(type && fieldAt(type.fields, path)?.label) ?? path}</td>
        <td>
          <FieldValue field={type && fieldAt(type.fields, path)} label={path} json={written} />
        </td>
        <td>
          <FieldValue field={type && fieldAt(type.fields, path)} label={path} json={now} tone="will" />
        </td>
        <td>
          <Verdict tone={standings[standing][0]}>{standings[standing][1]}</Verdict>
          {by && (
            <div className="small">
              by <Link to={`/runs/${by.run}`}>{by.who}</Link>{' '}
              <span className="dim">at {shortTime(by.at)}</span>
            </div>
          )}
        </td>
      </tr>
    ));
}

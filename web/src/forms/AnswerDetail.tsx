import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link } from 'react-router';
import {
  leafFields,
  readPath,
  scalarText,
  type AnswerView,
  type Json,
  type RecordType,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { shortTime } from '../parts/time';
import { Value } from '../parts/Value';
import { Verdict } from '../parts/Verdict';
import { answerWords } from './answerWords';

interface AnswerDetailProps {
  readonly answer: AnswerView;
  readonly type: RecordType;
  readonly leave: () => void;
}

/** One answer in full: what was sent, what it was read as, what it did, and another try. */
export function AnswerDetail({ answer, type, leave }: AnswerDetailProps) {
  const { id, cameAt, way, sentBy, given, record, problems, leftOut, standing, run } = answer;
  const [tone, word] = answerWords[standing];
  return (
    <section className="row-detail" aria-label={`Answer ${id}`}>
      <div className="page-head">
        <h2>Answer {id}</h2>
        <Verdict tone={tone}>{word}</Verdict>
        <span className="end">
          <Button variant="subtle" size="compact-sm" onClick={leave}>
            Close
          </Button>
        </span>
      </div>
      <p className="small dim">
        Came <span className="mono">{shortTime(cameAt)}</span>{' '}
        {way === 'page' ? 'from the page of the form' : `from another form, sent by ${sentBy}`}.
      </p>
      {problems.map(({ because }) => (
        <div key={because} className="note wrong" role="note">
          {because}
        </div>
      ))}
      {run && (
        <p>
          It began <Link to={`/runs/${run.id}`}>run {run.id}</Link>
          {run.because === '' ? '.' : `: ${run.because}`}
        </p>
      )}
      <Again answer={answer} />
      {record && (
        <table className="grid" aria-label="What it was read as">
          <thead>
            <tr>
              <th>Field</th>
              <th>What it was read as</th>
            </tr>
          </thead>
          <tbody>
            {leafFields(type.fields)
              .filter(({ path }) => readPath(record, path) !== undefined)
              .map(({ path, label, field }) => (
                <tr key={path}>
                  <td>
                    {label} <span className="mono small dim">{path}</span>
                  </td>
                  <td>
                    <Value json={readPath(record, path)} field={field} quiet />
                  </td>
                </tr>
              ))}
          </tbody>
        </table>
      )}
      <table className="grid" aria-label="What was sent">
        <thead>
          <tr>
            <th>Name</th>
            <th>What was sent</th>
          </tr>
        </thead>
        <tbody>
          {Object.entries(given).map(([name, value]) => (
            <tr key={name}>
              <td className="mono">
                {name}
                {leftOut.includes(name) && <span className="small dim"> is not asked, and was left out</span>}
              </td>
              <td className="mono as-text">{sentText(value ?? null)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const sentText = (value: Json): string =>
  Array.isArray(value)
    ? value.map(sentText).join(', ')
    : typeof value === 'object' && value !== null
      ? JSON.stringify(value)
      : scalarText(value);

/** Another try: of a refused answer as the form is now, of a failed one by its run. */
function Again({ answer: { id, standing, run } }: { readonly answer: AnswerView }) {
  const client = useQueryClient();
  const mayApply = useMay('files.apply');
  const mayRetry = useMay('runs.retry');
  const again = useMutation({
    mutationFn: () =>
      ask(standing === 'refused' ? `/answers/${id}/again` : `/runs/${run?.id ?? ''}/retry`, {
        method: 'POST',
      }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: keys.runs });
      void client.invalidateQueries({ queryKey: keys.forms });
    },
  });
  const may = standing === 'refused' ? mayApply : standing === 'failed' && run !== null && mayRetry;
  if (!may) return null;
  return (
    <p>
      <Button variant="default" loading={again.isPending} onClick={() => again.mutate()}>
        Try it again
      </Button>{' '}
      {again.isError && (
        <span className="value wrong" role="alert">
          {sentenceOf(again.error)}
        </span>
      )}
    </p>
  );
}

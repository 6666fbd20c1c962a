import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import {
  countSent,
  type Json,
  type RecordRef,
  type RequestPreview,
  type ReviewForm as Form,
  type RuleBody,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../../api/client';
import { Outcome } from '../../bench/Outcome';
import { useMay } from '../../frame/useMay';
import { FileRows } from '../../parts/FileRows';
import { count } from '../../parts/time';
import { wayWords } from '../../parts/wayWords';
import { FieldInput } from '../FieldInput';
import { ReviewForm, type Review } from './ReviewForm';

interface RunRuleFormProps {
  readonly id: string;
  readonly body: RuleBody;
  readonly recordRef: RecordRef;
  readonly onClose: () => void;
}

type Values = Readonly<Record<string, Json>>;
const untouched: Review = { values: {}, leftOut: false };

/** Runs a rule on a record: what it asks for, what it would do, the forms to review, and doing it. */
export function RunRuleForm({ id, body, recordRef, onClose }: RunRuleFormProps) {
  const mayRun = useMay('rules.request');
  const inputs = body.trigger.inputs ?? [];
  const [input, setInput] = useState<Values>({});
  const [reviews, setReviews] = useState<readonly Review[]>([]);
  // The same for every press of the button, so that it is done once.
  const [request] = useState(() => crypto.randomUUID());
  const preview = useMutation({
    mutationFn: () =>
      ask<RequestPreview>(`/rules/${id}/preview`, {
        method: 'POST',
        body: { ref: recordRef, input, id: request },
      }),
    onSuccess: ({ forms }) => setReviews(forms.map(() => untouched)),
  });
  const run = useMutation({
    mutationFn: (forms: readonly Form[]) =>
      ask<{ run: string | null }>(`/rules/${id}/requests`, {
        method: 'POST',
        body: {
          ref: recordRef,
          input,
          id: request,
          ...(forms.length > 0 && { reviewed: reviewedOf(forms, reviews) }),
        },
      }),
  });
  const forms = preview.data?.forms ?? [];
  const writes = preview.data?.report.writes ?? [];
  const sent = preview.data?.report.messages ?? [];
  const { files, messages } = countSent(sent);
  const kept = forms.filter((_form, at) => !reviews[at]?.leftOut);
  if (run.isSuccess) {
    return (
      <div className="note settled" role="status">
        {body.name} runs. {run.data.run !== null && <Link to={`/runs/${run.data.run}`}>Look at the run</Link>}{' '}
        <Button size="compact-xs" variant="subtle" onClick={onClose}>
          Close
        </Button>
      </div>
    );
  }
  const ready = inputs.every(({ name, required }) => !required || (input[name] ?? '') !== '');
  return (
    <section className="run-form boxed" aria-label={body.name}>
      {inputs.map((field) => (
        <label key={field.name} className="asked">
          <span>
            {field.label} {field.required && <span className="required">needed</span>}
          </span>
          <FieldInput
            field={field}
            label={field.label}
            json={input[field.name]}
            changed={false}
            onChange={(json) => {
              setInput((known) => ({ ...known, [field.name]: json }));
              preview.reset();
            }}
            onEnter={() => ready && preview.mutate()}
          />
        </label>
      ))}
      {!preview.data && (
        <Button loading={preview.isPending} disabled={!ready} onClick={() => preview.mutate()}>
          Show what it would do
        </Button>
      )}
      {(preview.isError || run.isError) && (
        <div className="note wrong" role="alert">
          {sentenceOf(preview.error ?? run.error)}
        </div>
      )}
      {preview.data && (
        <>
          {forms.map((form, at) => (
            <ReviewForm
              key={`${form.action}/${form.at}`}
              form={form}
              number={at + 1}
              of={forms.length}
              review={reviews[at] ?? untouched}
              onChange={(review) =>
                setReviews((known) => known.map((each, index) => (index === at ? review : each)))
              }
            />
          ))}
          {forms.length === 0 && (writes.length > 0 || sent.length === 0) && <Outcome records={writes} />}
          {preview.data.report.rules
            .flatMap(({ steps }) => steps)
            .map(
              (step, at) =>
                step.kind === 'file' && (
                  <section key={at} aria-label={step.name}>
                    <p className="flush">
                      The file <span className="mono">{step.name}</span> with {count(step.rows, 'row')},{' '}
                      {wayWords(step.way, step.endpoint)}:
                    </p>
                    <FileRows label={step.name} columns={step.columns} rows={step.first} of={step.rows} />
                  </section>
                ),
            )}
          {messages > 0 && <p>{count(messages, 'message')} would be sent.</p>}
          {preview.data.report.rules
            .filter(({ verdict }) => verdict === 'failed')
            .map(({ ruleId, because }) => (
              <div key={ruleId} className="note wrong">
                {because}
              </div>
            ))}
          {mayRun ? (
            <Button
              color="ember"
              loading={run.isPending}
              disabled={forms.length > 0 ? kept.length === 0 : writes.length + sent.length === 0}
              onClick={() => run.mutate(forms)}
            >
              {forms.length > 0
                ? `Create ${count(kept.length, 'record')}`
                : doingWords({ records: writes.length, files, messages })}
            </Button>
          ) : (
            <p className="small dim flush">
              This is what the rule would do. Running it is for those who may change records.
            </p>
          )}
        </>
      )}
    </section>
  );
}

/** Returns what the press does: “Write 2 records and 1 file”, “Send 1 message”. */
function doingWords(of: {
  readonly records: number;
  readonly files: number;
  readonly messages: number;
}): string {
  const written = [
    ...(of.records > 0 || of.files + of.messages === 0 ? [count(of.records, 'record')] : []),
    ...(of.files > 0 ? [count(of.files, 'file')] : []),
  ];
  const parts = [
    ...(written.length > 0 ? [`write ${written.join(' and ')}`] : []),
    ...(of.messages > 0 ? [`send ${count(of.messages, 'message')}`] : []),
  ].join(', ');
  return parts.charAt(0).toUpperCase() + parts.slice(1);
}

function reviewedOf(forms: readonly Form[], reviews: readonly Review[]) {
  return forms.map(({ action, at }, index) => {
    const { values, leftOut } = reviews[index] ?? untouched;
    return { action, at, values, ...(leftOut && { leftOut: true }) };
  });
}

import { ActionIcon, Button, Tooltip } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { IconArrowBackUp, IconArrowForwardUp } from '@tabler/icons-react';
import { Link, useNavigate } from 'react-router';
import type { FormFinding, FormSummary, FormView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { digits } from '../parts/habits';
import { SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import { tellWithUndo } from '../parts/toast';
import { Verdict } from '../parts/Verdict';
import { formPath, type EditedForm } from './useFormDraft';

interface FormHeadProps {
  readonly view: FormSummary;
  readonly edited: EditedForm;
  readonly findings: readonly FormFinding[];
  readonly tab: string;
}

/** What a form is called, how it stands, what is done with it as a whole, and its parts. */
export function FormHead({ view, edited, findings, tab }: FormHeadProps) {
  const mayChange = useMay('systems.change');
  const { type, form } = edited.draft;
  const errors = findings.filter(({ severity }) => severity === 'error').length;
  const answers = Object.values(view.counts).reduce((sum, one) => sum + one, 0);
  return (
    <header className="arrival-head">
      <p className="flush">
        <Link to="/arrivals/forms">Forms</Link>
      </p>
      <div className="page-head">
        <h1>{type.label}</h1>
        <span className="small dim">
          <SystemTag system={view.system} /> <span className="mono">{type.name}</span>
        </span>
        {edited.unsaved ? (
          <Verdict tone="will">not saved yet</Verdict>
        ) : (
          form && (
            <Verdict tone={form.open && errors === 0 ? 'settled' : 'quiet'}>
              {form.open && errors === 0 ? 'takes answers' : 'takes no answers'}
            </Verdict>
          )
        )}
        {mayChange && (
          <span className="end side-by-side">
            <Tooltip label="Undo">
              <ActionIcon variant="subtle" aria-label="Undo" disabled={!edited.undo} onClick={edited.undo}>
                <IconArrowBackUp size={16} />
              </ActionIcon>
            </Tooltip>
            <Tooltip label="Redo">
              <ActionIcon variant="subtle" aria-label="Redo" disabled={!edited.redo} onClick={edited.redo}>
                <IconArrowForwardUp size={16} />
              </ActionIcon>
            </Tooltip>
            <TakeOut view={view} />
            <Button
              color="ember"
              disabled={!edited.unsaved || edited.theirs !== undefined}
              loading={edited.saving}
              onClick={edited.save}
            >
              Save it
            </Button>
          </span>
        )}
      </div>
      {errors > 0 && (
        <p className="flush value wrong" role="status">
          {count(errors, 'error')} to mend: while there is one, people outside are told that the form takes no
          answers.
        </p>
      )}
      {edited.problem !== undefined && (
        <div className="note wrong" role="alert">
          It is not saved: {edited.problem}
        </div>
      )}
      <nav className="list-tabs" aria-label="Parts of the form">
        {(
          [
            ['page', 'What it asks'],
            ['answers', answers === 0 ? 'Answers' : `Answers (${digits(answers)})`],
          ] as const
        ).map(([key, name]) => (
          <Link
            key={key}
            to={`?tab=${key}`}
            replace
            className={tab === key ? 'active' : ''}
            aria-current={tab === key ? 'page' : undefined}
          >
            {name}
          </Link>
        ))}
      </nav>
    </header>
  );
}

/** Takes the record type out, with its page; one press brings it back. */
function TakeOut({ view: { system, type } }: { readonly view: FormView }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const renew = () => {
    void client.invalidateQueries({ queryKey: keys.forms });
    void client.invalidateQueries({ queryKey: keys.systems });
  };
  const putBack = useMutation({
    mutationFn: ({ type: was, form }: FormView) =>
      ask(`/forms/${system}`, { method: 'POST', body: { type: was, form } }),
    onSuccess: renew,
  });
  const takeOut = useMutation({
    mutationFn: () => ask<FormView>(formPath({ system, recordType: type.name }), { method: 'DELETE' }),
    onSuccess: (was) => {
      renew();
      void navigate('/arrivals/forms');
      tellWithUndo({ text: `“${type.label}” is taken out.`, undo: () => putBack.mutate(was) });
    },
  });
  return (
    <>
      {takeOut.isError && (
        <span className="value wrong small" role="alert">
          {sentenceOf(takeOut.error)}
        </span>
      )}
      <Button variant="subtle" color="rust" loading={takeOut.isPending} onClick={() => takeOut.mutate()}>
        Take it out
      </Button>
    </>
  );
}

import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { proposeForm, type FormSummary, type FormView, type RecordType } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { ArrivalTabs } from '../arrivals/ArrivalTabs';
import { useMay } from '../frame/useMay';
import { digits } from '../parts/habits';
import { keyFor } from '../parts/keyFor';
import { SentenceForm } from '../parts/SentenceForm';
import { Empty, Failure, Loading } from '../parts/states';
import { SystemTag } from '../parts/SystemTag';
import { Verdict } from '../parts/Verdict';
import { zoneHere } from '../parts/zoneHere';
import './forms.css';
import { useForms } from './useForms';

/** Where the page of a form is. */
export const pageOf = (address: string) => `/forms/${address}`;
export const sheetOf = ({ system, type }: Pick<FormView, 'system' | 'type'>) =>
  `/arrivals/forms/${system}/${encodeURIComponent(type.name)}`;

/** The record types that come in by files and forms, with the pages on which they are answered. */
export function FormsPage() {
  const forms = useForms();
  const mayChange = useMay('systems.change');
  const [making, setMaking] = useState(false);
  const all = forms.data ?? [];
  return (
    <article className="page wide" aria-label="Forms">
      <div className="page-head">
        <h1>Arrivals</h1>
        <ArrivalTabs />
        <span className="end">
          {mayChange && (
            <Button color="ember" aria-expanded={making} onClick={() => setMaking(!making)}>
              New form
            </Button>
          )}
        </span>
      </div>
      <p className="dim">
        People outside answer a form on a page of its own, and other forms send their answers to its address.
        Each answer becomes a record, from which your rules go on.
      </p>
      {making && <NewForm forms={all} leave={() => setMaking(false)} />}
      {forms.isPending && <Loading />}
      {forms.isError && <Failure error={forms.error} again={() => void forms.refetch()} />}
      {forms.data?.length === 0 && (
        <Empty title="No form yet">
          {mayChange ? 'Make one with the button above.' : 'Whoever may change systems has made none.'}
        </Empty>
      )}
      {all.length > 0 && (
        <table className="grid boxed">
          <thead>
            <tr>
              <th>Becomes</th>
              <th>Page</th>
              <th className="of14">How it stands</th>
              <th className="of14">Answers</th>
              <th className="of14">To look at</th>
            </tr>
          </thead>
          <tbody>
            {all.map((view) => (
              <FormLine key={`${view.system} ${view.type.name}`} view={view} />
            ))}
          </tbody>
        </table>
      )}
    </article>
  );
}

function FormLine({ view }: { readonly view: FormSummary }) {
  const { system, type, form, counts } = view;
  const answers = Object.values(counts).reduce((sum, one) => sum + one, 0);
  const trouble = counts.refused + counts.failed;
  return (
    <tr>
      <td>
        <SystemTag system={system} /> <Link to={sheetOf(view)}>{type.label}</Link>{' '}
        <span className="mono small dim">{type.name}</span>
      </td>
      <td>
        {form ? (
          <a href={pageOf(form.address)} target="_blank" rel="noreferrer">
            {form.title}
          </a>
        ) : (
          <span className="dim">none: it comes by files and from other forms</span>
        )}
      </td>
      <td>
        {form && (
          <Verdict tone={form.open ? 'settled' : 'quiet'}>
            {form.open ? 'takes answers' : 'takes no answers'}
          </Verdict>
        )}
      </td>
      <td className="mono">{answers === 0 ? '' : digits(answers)}</td>
      <td>
        {trouble > 0 && (
          <Link to={`${sheetOf(view)}?tab=answers`} className="quiet-link">
            <Verdict tone="wrong">{digits(trouble)} refused or failed</Verdict>
          </Link>
        )}
      </td>
    </tr>
  );
}

interface NewFormProps {
  readonly forms: readonly FormView[];
  readonly leave: () => void;
}

/** Makes a record type with a page that asks nothing yet. */
function NewForm({ forms, leave }: NewFormProps) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const make = useMutation({
    mutationFn: (title: string) => {
      const system = forms[0]?.system ?? 'files-and-forms';
      const name = keyFor(
        title,
        'form',
        forms.map(({ type }) => ({ key: type.name })),
      );
      const address = keyFor(
        title,
        'form',
        forms.map(({ form }) => ({ key: form?.address ?? '' })),
      );
      const type: RecordType = {
        name,
        label: title,
        plural: title,
        idField: 'number',
        nameField: 'number',
        fields: [{ name: 'number', label: 'Number', type: 'text', readOnly: true }],
      };
      const form = proposeForm(type, { address, zone: zoneHere() });
      return ask<FormView>(`/forms/${system}`, { method: 'POST', body: { type, form } });
    },
    onSuccess: (view) => {
      void client.invalidateQueries({ queryKey: keys.forms });
      void client.invalidateQueries({ queryKey: keys.systems });
      void navigate(sheetOf(view));
    },
  });
  return (
    <div className="new-form">
      <SentenceForm
        label="Make a form"
        question="What is it called?"
        verb="Make it"
        busy={make.isPending}
        done={(title) => title.trim() !== '' && make.mutate(title.trim().slice(0, 80))}
        leave={leave}
      />
      {make.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(make.error)}
        </div>
      )}
    </div>
  );
}

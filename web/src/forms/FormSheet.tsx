import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import { formFindings, type FormSummary } from '@vast-knot/core';
import { TheirJson } from '../parts/TheirJson';
import { useAddress } from '../parts/useAddress';
import { AnswersPane } from './AnswersPane';
import { FormHead } from './FormHead';
import { FormLedger } from './FormLedger';
import { FormWords } from './FormWords';
import './forms.css';
import { NotAsked } from './NotAsked';
import { RulesSay } from './RulesSay';
import { TriedForm } from './TriedForm';
import { useFormDraft } from './useFormDraft';

/** A form: what it asks at the left, the page as people outside see it at the right; and the answers that came. */
export function FormSheet({ view }: { readonly view: FormSummary }) {
  const edited = useFormDraft(view);
  const [params, put] = useAddress();
  const { draft, edit } = edited;
  const { type, form } = draft;
  const findings = useMemo(() => (form ? formFindings(form, type) : []), [form, type]);
  const [at, setAt] = useState<number>();
  const tab = params.get('tab') ?? 'page';
  return (
    <article className="arrival-page" aria-label={type.label}>
      <FormHead view={view} edited={edited} findings={findings} tab={tab} />
      {tab === 'answers' ? (
        <AnswersPane view={view} params={params} put={put} />
      ) : (
        <div className="arrival-beside form-beside">
          <section className="arrival-layout" aria-label="The form">
            {edited.theirs && (
              <TheirJson
                what="this form"
                mine={edited.saved}
                theirs={edited.theirs}
                take={edited.takeTheirs}
                keep={edited.keepMine}
              />
            )}
            <FormWords draft={draft} edit={edit} findings={findings} />
            {form && (
              <>
                <FormLedger draft={draft} edit={edit} findings={findings} at={at} choose={setAt} />
                <NotAsked draft={draft} edit={edit} />
              </>
            )}
            <RulesSay system={view.system} type={type} />
          </section>
          {form ? (
            <TriedForm draft={{ type, form }} />
          ) : (
            <section className="shown-record" aria-label="The page">
              <p className="dim">
                There is no page. Files, <Link to="/arrivals">which arrive by themselves</Link>, and other
                forms fill the fields of this record type.
              </p>
            </section>
          )}
        </div>
      )}
    </article>
  );
}

import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import {
  answerOf,
  compileForm,
  formPage,
  leafFields,
  readPath,
  type Form,
  type Json,
  type JsonObject,
  type RecordType,
} from '@vast-knot/core';
import { Value } from '../parts/Value';
import { Verdict } from '../parts/Verdict';

interface TriedFormProps {
  readonly draft: { readonly type: RecordType; readonly form: Form };
}

/** The page as people outside see it, to be answered here, and what the answers give. Nothing of it is sent. */
export function TriedForm({ draft }: TriedFormProps) {
  // A page is drawn anew with each change of what it asks, and a key need not wait for that.
  const { type, form } = useDeferredValue(draft);
  const compiled = useMemo(() => compileForm(form, type), [form, type]);
  const [given, setGiven] = useState<JsonObject>({});
  const [opened] = useState(() => new Date().toISOString());
  const answered = answerOf(compiled, given, { time: opened });
  const frame = useRef<HTMLIFrameElement>(null);
  const latest = useRef(given);
  const scrolled = useRef(0);
  useEffect(() => {
    latest.current = given;
  }, [given]);
  const html = useMemo(() => {
    // eslint-disable-next-line react-hooks/refs -- what was answered so far is put into the page once, when it is drawn anew
    const sofar = latest.current;
    const page = answerOf(compiled, sofar, { time: opened });
    return formPage({ compiled, given: sofar, answered: page, problems: [], pass: '', isTrial: true });
  }, [compiled, opened]);
  const shown = answered.shown.join(',');
  useEffect(() => {
    const items = frame.current?.contentDocument?.querySelectorAll<HTMLElement>('[data-at]') ?? [];
    const places = new Set(shown.split(','));
    for (const item of items) item.hidden = !places.has(item.dataset['at'] ?? '');
  }, [shown]);
  const listen = () => {
    const page = frame.current?.contentDocument;
    // What is looked at stays in sight while the page is drawn anew.
    page?.documentElement.scrollTo({ top: scrolled.current });
    page?.addEventListener('scroll', () => (scrolled.current = page.documentElement.scrollTop));
    page?.addEventListener('input', () => setGiven(answersIn(page)));
    page?.addEventListener('submit', (event) => event.preventDefault());
  };
  return (
    <section className="tried-form" aria-label="The page, tried">
      <iframe
        ref={frame}
        title="The page as people outside see it"
        sandbox="allow-same-origin"
        srcDoc={html}
        onLoad={listen}
      />
      <div className="tried-gives" role="status" aria-label="What these answers give">
        <h2>What these answers give</h2>
        <table className="grid">
          <tbody>
            {leafFields(type.fields)
              .filter(({ path }) => readPath(answered.record, path) !== undefined)
              .map(({ path, label, field }) => (
                <tr key={path}>
                  <td>
                    {label} <span className="mono small dim">{path}</span>
                  </td>
                  <td>
                    <Value json={readPath(answered.record, path)} field={field} tone="will" quiet />
                  </td>
                </tr>
              ))}
          </tbody>
        </table>
        {answered.problems.map(({ because }) => (
          <p key={because} className="flush">
            <Verdict tone="wrong">{because}</Verdict>
          </p>
        ))}
      </div>
    </section>
  );
}

/** Returns what is answered on a page, by the names of its questions. */
function answersIn(page: Document): JsonObject {
  const form = page.querySelector('form');
  if (!form) return {};
  const data = new FormData(form);
  const answers: Record<string, Json> = {};
  for (const name of new Set(data.keys())) {
    if (name.startsWith('.')) continue;
    const values = data.getAll(name).filter((each) => typeof each === 'string');
    answers[name] = values.length === 1 ? (values[0] ?? null) : values;
  }
  return answers;
}

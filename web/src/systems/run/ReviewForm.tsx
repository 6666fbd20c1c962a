import { Checkbox } from '@mantine/core';
import { leafFields, type Json, type ReviewForm as Form } from '@vast-knot/core';
import { useSystems } from '../../api/queries';
import { SystemTag } from '../../parts/SystemTag';
import { Value } from '../../parts/Value';
import { FieldInput } from '../FieldInput';

/** What a person made of a filled form. */
export interface Review {
  /** What differs from what was filled in, by dotted path. */
  readonly values: Readonly<Record<string, Json>>;
  readonly leftOut: boolean;
}

interface ReviewFormProps {
  readonly form: Form;
  readonly number: number;
  readonly of: number;
  readonly review: Review;
  readonly onChange: (review: Review) => void;
}

/** The record that would be created, as a filled form: what the rule fills in beside what will be written. */
export function ReviewForm({ form, number, of, review, onChange }: ReviewFormProps) {
  const type = useSystems()
    .data?.find(({ key }) => key === form.system)
    ?.recordTypes.find(({ name }) => name === form.recordType);
  const { values, leftOut } = review;
  const set = (path: string, json: Json) => {
    const { [path]: _gone, ...others } = values;
    const same = JSON.stringify(json ?? null) === JSON.stringify(form.values[path] ?? null);
    onChange({ ...review, values: same ? others : { ...others, [path]: json } });
  };
  const fields = leafFields(type?.fields ?? []).filter(({ field }) => !field.readOnly && !field.keptBySystem);
  return (
    <article className="review" aria-label={`New ${type?.label ?? form.recordType} ${number}`}>
      <header>
        <SystemTag system={form.system} /> <strong>New {type?.label.toLowerCase()}</strong>{' '}
        <span className="dim">
          {number} of {of}
        </span>
        <Checkbox
          className="end"
          label="Leave this one out"
          checked={leftOut}
          onChange={({ currentTarget: { checked } }) => onChange({ ...review, leftOut: checked })}
        />
      </header>
      {!leftOut && (
        <table className="grid">
          <thead>
            <tr>
              <th className="of26">Field</th>
              <th className="of34">The rule fills in</th>
              <th>Will be written</th>
            </tr>
          </thead>
          <tbody>
            {fields.map(({ path, label, field }) => (
              <tr key={path}>
                <td>
                  {label} {field.required && <span className="required">required</span>}
                </td>
                <td>
                  <Value json={form.values[path]} field={field} />
                </td>
                <td>
                  <FieldInput
                    field={field}
                    label={`${label} of new ${type?.label.toLowerCase() ?? 'record'} ${number}`}
                    json={path in values ? values[path] : form.values[path]}
                    changed={path in values}
                    onChange={(json) => set(path, json)}
                    onEnter={() => undefined}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </article>
  );
}

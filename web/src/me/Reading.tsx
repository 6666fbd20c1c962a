import { Radio, Select } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { readingForms, type Habits, type ReadingForm, type SignedIn } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, sessionQuery } from '../api/queries';
import { digits, writtenAs, zoneShown } from '../parts/habits';
import { shortTime } from '../parts/time';

const zones = Intl.supportedValuesOf('timeZone');
/** An instant and a number to show a form by. */
const shown = { at: '2026-11-27T18:05:30Z', number: 12_345.5 };

/** In which zone and form dates and numbers are shown to a person. */
export function Reading() {
  const session = useQuery(sessionQuery).data;
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: (habits: Habits) => ask<SignedIn>('/session/habits', { method: 'PUT', body: habits }),
    onSuccess: (signedIn) => client.setQueryData(keys.session, signedIn),
  });
  if (!session) return null;
  const { habits } = session;
  const say = ({ zone, ...rest }: Habits) => save.mutate({ ...rest, ...(zone !== undefined && { zone }) });
  return (
    <section aria-label="How you read">
      <h2>How you read</h2>
      <p className="dim flush">
        Times of runs, messages and changes, and counts, are shown so to you alone. What records hold is
        always shown as their system has it.
      </p>
      <div className="habits">
        <Select
          label="Zone"
          description={`Times are in ${zoneShown()} now.`}
          searchable
          clearable
          placeholder="as this browser has it"
          data={zones}
          value={habits.zone ?? null}
          onChange={(zone) => say({ ...habits, zone: zone ?? undefined } as Habits)}
          w={300}
        />
        <Radio.Group
          label="Form of dates and numbers"
          value={habits.form ?? 'day first'}
          onChange={(form) => say({ ...habits, form: form as ReadingForm })}
        >
          {readingForms.map((form) => (
            <Radio
              key={form}
              value={form}
              label={
                <>
                  {form} <span className="mono dim">{writtenAs(form, shown)}</span>
                </>
              }
              mt={6}
            />
          ))}
        </Radio.Group>
        <p role="status" className="flush">
          So a time is {shortTime(shown.at)}, and a count {digits(shown.number)}.
        </p>
        {save.isError && (
          <div className="note wrong" role="alert">
            {sentenceOf(save.error)}
          </div>
        )}
      </div>
    </section>
  );
}

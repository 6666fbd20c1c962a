import { useMutation, useQueryClient } from '@tanstack/react-query';
import {
  learnType,
  type FileSettings,
  type FormView,
  type JsonObject,
  type LayoutLine,
  type SystemView,
} from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { keyFor } from '../parts/keyFor';
import type { TypePlace } from '../parts/RecordTypeSelect';
import { SentenceForm } from '../parts/SentenceForm';

interface LearnTypeProps {
  readonly inlets: readonly SystemView[];
  readonly file: FileSettings;
  /** Records of the beginning of the file. */
  readonly values: readonly JsonObject[];
  /** Hears of the type that was made, and how the file fills it. */
  readonly made: (place: TypePlace, lines: readonly LayoutLine[]) => void;
}

/** Makes a record type of what the file holds: a field for each of its places. */
export function LearnType({ inlets, file, values, made }: LearnTypeProps) {
  const client = useQueryClient();
  const make = useMutation({
    mutationFn: async (label: string) => {
      const system = inlets[0]?.key ?? 'files-and-forms';
      const known = inlets.flatMap(({ recordTypes }) => recordTypes.map(({ name }) => ({ key: name })));
      const { type, lines } = learnType({ file, values, name: keyFor(label, 'record', known), label });
      await ask<FormView>(`/forms/${system}`, { method: 'POST', body: { type, form: null } });
      await client.invalidateQueries({ queryKey: keys.systems });
      void client.invalidateQueries({ queryKey: keys.forms });
      return { place: { system, recordType: type.name }, lines };
    },
    onSuccess: ({ place, lines }) => made(place, lines),
  });
  return (
    <>
      <SentenceForm
        label="Learn a record type from the file"
        question="Or something new, with a field for each place of the file. What is one called?"
        verb="Learn it"
        busy={make.isPending}
        done={(label) => label.trim() !== '' && make.mutate(label.trim().slice(0, 80))}
      />
      {make.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(make.error)}
        </div>
      )}
    </>
  );
}

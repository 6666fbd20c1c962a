import { Checkbox } from '@mantine/core';
import { sinceForms, type Asked, type Listening } from '@vast-knot/core';
import { Verdict } from '../../parts/Verdict';
import { every } from '../every';
import { Choice, Text, WholeText } from '../Inputs';
import { AskedTimes, ComparedForm } from '../ListeningForms';
import { parametersText, readParameters } from '../parameters';
import { PartClause, setterOf } from '../PartClause';
import type { TypeParts } from '../sheetParts';

/** How changes of a type are learnt: told by the system, asked for, or found by comparing. */
export function Changes(parts: TypeParts) {
  const { draft, type, style } = parts;
  const listening = style.listening ?? {};
  const { told } = draft.body.connection;
  const isTold =
    told !== undefined && Object.values(told.types).some(({ recordType }) => recordType === type.name);
  const set = setterOf(parts, 'listening');
  return (
    <PartClause
      parts={parts}
      part="listening"
      word="Its changes"
      before="are "
      label="How changes are learnt"
      says={wordsFor(listening, isTold)}
      warning={
        !isTold &&
        !listening.asked &&
        !listening.compared && (
          <Verdict tone="will">
            Nothing tells of changes: rules on {type.plural} start only once a night.
          </Verdict>
        )
      }
    >
      <AskedForm listening={listening} set={set} />
      <ComparedForm listening={listening} set={set} />
    </PartClause>
  );
}

function wordsFor({ asked, compared }: Listening, isTold: boolean): string {
  const parts = [
    isTold && 'told by the system',
    asked && `asked for every ${every(asked.everySeconds)}`,
    compared && `found by comparing all of them every ${every(compared.everySeconds)}`,
  ].filter((part) => part !== false && part !== undefined);
  return parts.length === 0 ? 'found by comparing at night' : parts.join(', and ');
}

interface FormProps {
  readonly listening: Listening;
  readonly set: (next: Listening) => void;
}

const start: Asked = {
  parameters: { updated_since: '{since}' },
  field: 'updated_at',
  form: 'date-time',
  overlapSeconds: 60,
  everySeconds: 60,
};

function AskedForm({ listening, set }: FormProps) {
  const { asked, ...others } = listening;
  return (
    <>
      <Checkbox
        label="Asked for what changed since"
        checked={asked !== undefined}
        onChange={(event) => set(event.currentTarget.checked ? { ...others, asked: start } : others)}
        mb={8}
      />
      {asked && (
        <div className="indented">
          <WholeText
            label="Parameters"
            mono
            value={parametersText(asked.parameters)}
            onChange={(text) => set({ ...others, asked: { ...asked, parameters: readParameters(text) } })}
            description="{since} is filled in."
          />
          <Text
            label="Field with the time of the last change"
            mono
            value={asked.field}
            onChange={(field) => set({ ...others, asked: { ...asked, field } })}
          />
          <Choice
            label="Written as"
            value={asked.form}
            options={sinceForms.map((form) => ({ value: form, label: form }))}
            onChange={(form) => set({ ...others, asked: { ...asked, form } })}
          />
          <AskedTimes asked={asked} set={(next) => set({ ...others, asked: next })} />
        </div>
      )}
    </>
  );
}

import type { Creating } from '@vast-knot/core';
import { Verdict } from '../../../parts/Verdict';
import { withMember } from '../../../parts/withMember';
import { Choice, namesIn, OptionalText, Text, WholeText } from '../../Inputs';
import { PartClause, setterOf } from '../../PartClause';
import type { TypeParts } from '../../sheetParts';

/** How records are created. */
export function Created(parts: TypeParts) {
  const { creating, path } = parts.style;
  const set = setterOf(parts, 'creating');
  const knowsRepeats =
    !creating || creating.keyHeader !== undefined || creating.method === 'PUT' || creating.naturalKey;
  return (
    <PartClause
      parts={parts}
      part="creating"
      word="Created"
      label="How records are created"
      says={
        creating ? (
          <span className="mono">
            {creating.method} {creating.path.replace('{path}', path)}
          </span>
        ) : (
          'not at all'
        )
      }
      warning={
        !knowsRepeats && (
          <Verdict tone="will">
            A creation that got no answer is not repeated, because nothing would tell a second record from the
            first. Name a header, or fields by which it is found.
          </Verdict>
        )
      }
    >
      <Choice
        label="Created"
        value={creating?.method ?? ''}
        options={[
          { value: '', label: 'not at all' },
          { value: 'POST', label: 'by POST' },
          { value: 'PUT', label: 'by PUT, with an id of ours' },
        ]}
        onChange={(method) =>
          set(
            method === ''
              ? undefined
              : { ...creating, method, path: method === 'PUT' ? '{path}/{id}' : '{path}' },
          )
        }
      />
      {creating && <CreatingForm creating={creating} set={set} />}
    </PartClause>
  );
}

function CreatingForm({
  creating,
  set,
}: {
  readonly creating: Creating;
  readonly set: (next: Creating) => void;
}) {
  const put = (name: 'envelope' | 'answer' | 'keyHeader') => (value: string | undefined) =>
    set(withMember(creating, name, value));
  const how = creating.location ? 'location' : creating.id !== undefined ? 'id' : 'answer';
  return (
    <>
      <Text label="Path" mono value={creating.path} onChange={(path) => set({ ...creating, path })} />
      <OptionalText
        label="What is sent stands in"
        mono
        value={creating.envelope}
        onChange={put('envelope')}
      />
      <Choice
        label="The new id comes"
        value={how}
        options={[
          { value: 'answer', label: 'with the record, in the answer' },
          { value: 'id', label: 'alone, in the answer' },
          { value: 'location', label: 'in the header Location' },
        ]}
        onChange={(next) => {
          const located = withMember(creating, 'location', next === 'location' ? true : undefined);
          set(withMember(located, 'id', next === 'id' ? '/id' : undefined));
        }}
      />
      {how === 'id' && (
        <Text label="Where it stands" mono value={creating.id} onChange={(id) => set({ ...creating, id })} />
      )}
      {how === 'answer' && (
        <OptionalText
          label="In the answer, the record"
          mono
          value={creating.answer}
          onChange={put('answer')}
        />
      )}
      <OptionalText
        label="Header of the key against repeats"
        mono
        value={creating.keyHeader}
        placeholder="Idempotency-Key"
        onChange={put('keyHeader')}
      />
      <WholeText
        label="Fields by which a record made before is found"
        mono
        value={creating.naturalKey?.join(', ')}
        onChange={(text) => set(withMember(creating, 'naturalKey', namesIn(text)))}
        description="With commas between."
      />
    </>
  );
}

import { changings, type Changing, type ChangingAlone } from '@vast-knot/core';
import { withMember } from '../../../parts/withMember';
import { changingBeginnings } from '../../beginnings';
import { Choice, Kind, OptionalText, Text, WholeText } from '../../Inputs';
import { parametersText, readParameters } from '../../parameters';
import { PartClause, setterOf } from '../../PartClause';
import type { TypeParts } from '../../sheetParts';

const methods = ['PATCH', 'PUT', 'POST'] as const;

/** How records are changed. */
export function Changed(parts: TypeParts) {
  const { changing } = parts.style;
  const set = setterOf(parts, 'changing');
  return (
    <PartClause
      parts={parts}
      part="changing"
      word="Changed"
      label="How records are changed"
      says={changings.find(({ kind }) => kind === changing?.kind)?.label ?? 'not at all'}
    >
      <Kind<Changing>
        label="Changed"
        value={changing}
        family={changings}
        beginnings={changingBeginnings}
        onChange={set}
        none="not at all"
      />
      {changing && changing.kind !== 'bulk' && <AloneForm changing={changing} set={set} />}
      {changing?.kind === 'bulk' && (
        <>
          <Text label="Path" mono value={changing.path} onChange={(path) => set({ ...changing, path })} />
          <Text
            label="Member that holds the items"
            mono
            value={changing.items}
            onChange={(items) => set({ ...changing, items })}
          />
          <Text
            label="Results stand at"
            mono
            value={changing.results}
            onChange={(results) => set({ ...changing, results })}
          />
          <WholeText
            label="Each item holds"
            mono
            value={parametersText(changing.item)}
            onChange={(text) => set({ ...changing, item: readParameters(text) })}
            description="{id}, {changes}, {ifMatch} and {key} are filled in, with & between."
          />
        </>
      )}
    </PartClause>
  );
}

function AloneForm({
  changing,
  set,
}: {
  readonly changing: ChangingAlone;
  readonly set: (next: Changing) => void;
}) {
  const put = (name: 'path' | 'envelope' | 'answer' | 'keyHeader') => (value: string | undefined) =>
    set(withMember(changing, name, value));
  return (
    <>
      <Choice<NonNullable<ChangingAlone['method']>>
        label="Method"
        value={changing.method ?? (changing.kind === 'whole record' ? 'PUT' : 'PATCH')}
        options={methods.map((value) => ({ value, label: value }))}
        onChange={(method) => set({ ...changing, method })}
      />
      <OptionalText
        label="Path"
        mono
        value={changing.path}
        placeholder="{path}/{id}"
        onChange={put('path')}
      />
      <OptionalText
        label="What is sent stands in"
        mono
        value={changing.envelope}
        placeholder="/data"
        onChange={put('envelope')}
      />
      <OptionalText
        label="In the answer, the record"
        mono
        value={changing.answer}
        placeholder="none, or /data"
        onChange={put('answer')}
      />
      <OptionalText
        label="Header of the key against repeats"
        mono
        value={changing.keyHeader}
        placeholder="Idempotency-Key"
        onChange={put('keyHeader')}
      />
    </>
  );
}

import { withMember } from '../../../parts/withMember';
import { Choice, OptionalText, Text } from '../../Inputs';
import { PartClause, setterOf } from '../../PartClause';
import type { TypeParts } from '../../sheetParts';

/** How one record is read. */
export function One(parts: TypeParts) {
  const { style } = parts;
  const { one } = style;
  const set = setterOf(parts, 'one');
  return (
    <PartClause
      parts={parts}
      part="one"
      word="One"
      before="is read "
      label="How one record is read"
      says={
        one.kind === 'list' ? (
          'through the list'
        ) : (
          <span className="mono">{one.path.replace('{path}', style.path)}</span>
        )
      }
    >
      <Choice
        label="One record"
        value={one.kind}
        options={[
          { value: 'address', label: 'at an address of its own' },
          { value: 'list', label: 'through the list' },
        ]}
        onChange={(kind) => set(kind === 'list' ? { kind } : { kind, path: '{path}/{id}' })}
      />
      {one.kind === 'address' && (
        <>
          <Text
            label="Path"
            mono
            value={one.path}
            onChange={(path) => set({ ...one, path })}
            description="{id} stands for the id."
          />
          <OptionalText
            label="In the answer, the record"
            mono
            value={one.record}
            onChange={(record) => set(withMember(one, 'record', record))}
          />
        </>
      )}
    </PartClause>
  );
}

import { Verdict } from '../../../parts/Verdict';
import { withMember } from '../../../parts/withMember';
import { Choice, OptionalText, Text } from '../../Inputs';
import { PartClause, setterOf } from '../../PartClause';
import type { TypeParts } from '../../sheetParts';

const words = {
  field: 'a field of the record',
  etag: 'the ETag of the answer',
  none: 'nothing',
} as const;
const kinds = ['field', 'etag', 'none'] as const;

/** How it is known that somebody else changed a record in between. */
export function Guarded(parts: TypeParts) {
  const { version, changing } = parts.style;
  const set = setterOf(parts, 'version');
  return (
    <PartClause
      parts={parts}
      part="version"
      word="Guarded"
      before="by "
      label="What tells that somebody else changed a record"
      says={
        version.kind === 'field' ? (
          <>
            the field <span className="mono">{version.field}</span>
          </>
        ) : (
          words[version.kind]
        )
      }
      warning={
        version.kind === 'none' &&
        changing && (
          <Verdict tone="will">
            A record is read before it is written. Two who write in the same moment can still meet.
          </Verdict>
        )
      }
    >
      <Choice
        label="That somebody else changed a record is known by"
        value={version.kind}
        options={kinds.map((value) => ({ value, label: words[value] }))}
        onChange={(kind) => set(kind === 'field' ? { kind, field: '' } : { kind })}
      />
      {version.kind === 'field' && (
        <>
          <Text label="Field" mono value={version.field} onChange={(field) => set({ ...version, field })} />
          <OptionalText
            label="Sent as If-Match"
            mono
            value={version.ifMatch}
            onChange={(ifMatch) => set(withMember(version, 'ifMatch', ifMatch))}
            description={
              'As "{version}". Blank where it takes none: the record is read before it is written.'
            }
          />
        </>
      )}
    </PartClause>
  );
}

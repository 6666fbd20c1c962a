import type { ReactNode } from 'react';
import type { RecordTypeStyle } from '@vast-knot/core';
import { Phrase } from '../parts/Phrase';
import { Clause, Scope } from './Clause';
import type { TypeParts } from './sheetParts';
import { withPart, type Part } from './styleEdits';

interface PartProps {
  readonly parts: TypeParts;
  readonly part: Part;
  readonly word: string;
  readonly before?: ReactNode;
  readonly says: ReactNode;
  /** What is edited, for those who do not see. */
  readonly label: string;
  /** What one has to know of how it is now. */
  readonly warning?: ReactNode;
  readonly children: ReactNode;
}

/** The statement of one part of how records are reached: the phrase with its editor, for all record types or for the one at hand. */
export function PartClause({ parts, part, word, before, says, label, warning, children }: PartProps) {
  const { type, because, found } = parts;
  return (
    <Clause
      word={word}
      reasons={because(type.name, part)}
      findings={[
        ...found(`connection/usual/${part}`),
        ...found(`connection/recordTypes/${type.name}/${part}`),
      ]}
    >
      {before}
      <Phrase right="systems.change" width={400} label={label} says={says}>
        {children}
        <Scope draft={parts.draft} type={type.name} plural={type.plural} part={part} />
      </Phrase>
      .{warning && <div className="small">{warning}</div>}
    </Clause>
  );
}

/** Returns what changes a part of how the records of the type at hand are reached. */
export function setterOf<P extends Part>({ draft, type }: TypeParts, part: P) {
  return (next: RecordTypeStyle[P] | undefined) =>
    draft.edit((body) => withPart(body, type.name, part, next), part);
}

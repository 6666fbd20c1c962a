import { Checkbox } from '@mantine/core';
import type { ReactNode } from 'react';
import type { DraftFinding, DraftReason, HttpDraft } from '@vast-knot/core';
import type { SavedDraft } from '../parts/useSavedDraft';
import { Verdict } from '../parts/Verdict';
import { hasOwn, withOwn, type Part } from './styleEdits';

const sureWords = { said: 'said', likely: 'likely', guess: 'a guess' } as const;

interface ClauseProps {
  readonly word: string;
  readonly children: ReactNode;
  /** Why it was proposed so. */
  readonly reasons?: readonly DraftReason[];
  readonly findings?: readonly DraftFinding[];
}

/** One statement of a connection: a word in the margin, the sentence, and below it why it is so and what is wrong with it. */
export function Clause({ word, children, reasons = [], findings = [] }: ClauseProps) {
  return (
    <div className="clause">
      <span className="word">{word}</span>
      <div>
        {children}
        {reasons.map(({ because, sure }) => (
          <div key={because} className="small dim">
            {sureWords[sure]}: {because}
          </div>
        ))}
        {findings.map(({ at, message }) => (
          <div key={`${at}${message}`} className="small">
            <Verdict tone="wrong">{message}</Verdict>
          </div>
        ))}
      </div>
    </div>
  );
}

interface ScopeProps {
  readonly draft: SavedDraft<HttpDraft>;
  readonly type: string;
  readonly plural: string;
  readonly part: Part;
}

/** Whether a statement holds for all record types, or for the one at hand alone. */
export function Scope({ draft, type, plural, part }: ScopeProps) {
  return (
    <Checkbox
      size="xs"
      label={`Only for ${plural}`}
      checked={hasOwn(draft.body, type, part)}
      onChange={(event) => {
        const own = event.currentTarget.checked;
        draft.edit((body) => withOwn(body, type, part, own));
      }}
      mt={6}
    />
  );
}

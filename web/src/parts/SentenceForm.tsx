import { Button, Textarea } from '@mantine/core';
import { useState, type ReactNode } from 'react';

interface SentenceFormProps {
  /** What the form is about, for those who do not see it. */
  readonly label: string;
  readonly question: string;
  /** What is pressed. */
  readonly verb: string;
  readonly busy?: boolean;
  readonly done: (said: string) => void;
  /** Leaves it without doing anything; absent where something else closes it. */
  readonly leave?: () => void;
  /** What there is to know before. */
  readonly children?: ReactNode;
}

const longest = 2000;

/** Asks for a sentence before something is done; Enter does it, Shift and Enter begin another line. The sentence may be blank. */
export function SentenceForm(props: SentenceFormProps) {
  const { label, question, verb, busy = false, done, leave, children } = props;
  const [said, setSaid] = useState('');
  return (
    <form
      className="sentence-form"
      aria-label={label}
      onSubmit={(event) => {
        event.preventDefault();
        done(said);
      }}
      onKeyDown={({ key }) => key === 'Escape' && leave?.()}
    >
      {children}
      <Textarea
        label={question}
        value={said}
        maxLength={longest}
        autosize
        minRows={1}
        maxRows={6}
        autoFocus
        data-autofocus
        onChange={({ currentTarget }) => setSaid(currentTarget.value)}
        onKeyDown={(event) => {
          if (event.key !== 'Enter' || event.shiftKey) return;
          event.preventDefault();
          if (!busy) done(said);
        }}
      />
      <div className="side-by-side">
        <Button type="submit" color="ember" loading={busy}>
          {verb}
        </Button>
        {leave && (
          <Button variant="subtle" onClick={leave}>
            Not now
          </Button>
        )}
      </div>
    </form>
  );
}

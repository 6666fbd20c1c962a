import { TextInput } from '@mantine/core';
import { memo, type ReactNode } from 'react';
import { Link } from 'react-router';
import { useMay } from '../frame/useMay';
import { RunsVersion } from './RunsVersion';
import type { Draft } from './useDraft';

interface SheetNameProps {
  readonly name: string;
  readonly note: string;
  /** The version that runs, if one does. */
  readonly version: number | undefined;
  /** Whether the draft is what runs. */
  readonly same: boolean;
  readonly saving: Draft['saving'];
  readonly edit: Draft['edit'];
  readonly children: ReactNode;
}

const savingWords = { saved: 'Saved', saving: 'Saving …', unsaved: '', conflict: '', failed: '' } as const;

/** What the rule is called and for, and how it stands. */
export function SheetName({ name, note, version, same, saving, edit, children }: SheetNameProps) {
  return (
    <>
      <div className="page-head name-line">
        <Link to="/rules" aria-label="All rules">
          Rules
        </Link>
        <Name name={name} edit={edit} />
        <RunsVersion version={version} same={same} />
      </div>
      <div className="side-by-side">
        <Note note={note} edit={edit} />
        <span className="small dim" role="status">
          {savingWords[saving]}
        </span>
        {children}
      </div>
    </>
  );
}

interface TextProps {
  readonly edit: Draft['edit'];
}

const Name = memo(function Name({ name, edit }: TextProps & { readonly name: string }) {
  const mayChange = useMay('rules.edit');
  return (
    <TextInput
      aria-label="Name of the rule"
      variant="unstyled"
      value={name}
      readOnly={!mayChange}
      maxLength={120}
      onChange={({ currentTarget: { value } }) =>
        value !== '' && edit((body) => ({ ...body, name: value }), 'name')
      }
      styles={{ input: { fontSize: 19, fontWeight: 650, height: 32 } }}
      className="grows"
    />
  );
});

const Note = memo(function Note({ note, edit }: TextProps & { readonly note: string }) {
  const mayChange = useMay('rules.edit');
  return (
    <TextInput
      aria-label="What the rule is for"
      variant="unstyled"
      placeholder={mayChange ? 'What is this rule for?' : ''}
      value={note}
      readOnly={!mayChange}
      maxLength={2000}
      onChange={({ currentTarget: { value } }) => edit((body) => ({ ...body, note: value }), 'note')}
      styles={{ input: { color: 'var(--mantine-color-dimmed)', height: 26, minHeight: 26 } }}
      className="grows"
    />
  );
});

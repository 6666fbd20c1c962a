import { Autocomplete, Button, Popover } from '@mantine/core';
import { useState, type ReactNode } from 'react';
import type { RuleView } from '@vast-knot/core';
import { exportBundle } from '../../moving/exportBundle';
import { SentenceForm } from '../../parts/SentenceForm';
import { count } from '../../parts/time';
import type { ListedRule } from './ruleList';
import { SpecificationMenu } from './SpecificationMenu';
import type { useRuleWork } from './useRuleWork';

interface ChosenBarProps {
  readonly chosen: readonly ListedRule[];
  readonly folders: readonly string[];
  readonly work: ReturnType<typeof useRuleWork>;
  readonly mayPublish: boolean;
  /** Whether it is asked for the folder. */
  readonly filing: boolean;
  readonly setFiling: (filing: boolean) => void;
  readonly clear: () => void;
}

/** What can be done with the rules that are chosen, together. */
export function ChosenBar({ chosen, folders, work, mayPublish, filing, setFiling, clear }: ChosenBarProps) {
  const rules = chosen.map(({ rule }) => rule);
  const running = rules.filter(({ published }) => published !== null);
  const publishable = chosen
    .filter(({ state, errors }) => errors === 0 && state !== 'runs')
    .map(({ rule }) => rule);
  const { progress } = work.several;
  const [folder, setFolder] = useState('');
  return (
    <div className="chosen-bar" role="region" aria-label="The chosen rules">
      <strong>{count(rules.length, 'rule')} chosen</strong>
      {mayPublish && (
        <>
          <Asked
            label={`Publish ${publishable.length}`}
            question="What is it for? It is kept with each version."
            disabled={publishable.length === 0}
            done={(note) => void work.several.publish(publishable, note)}
          />
          <Asked
            label={`Stop ${running.length} from running`}
            question="Why? It is kept with the rule."
            disabled={running.length === 0}
            done={(why) => void work.several.stop(running, why)}
          />
        </>
      )}
      <Pressed label="Move to a folder" open={filing} setOpen={setFiling}>
        {(close) => (
          <form
            onSubmit={(event) => {
              event.preventDefault();
              work.file.mutate({ rules, folder: folder.trim() });
              close();
            }}
          >
            <Autocomplete
              label="Folder"
              description="Blank for none"
              data={folders}
              value={folder}
              onChange={setFolder}
              maxLength={80}
              data-autofocus
              comboboxProps={{ withinPortal: false }}
            />
            <Button type="submit" mt="xs">
              Move {count(rules.length, 'rule')}
            </Button>
          </form>
        )}
      </Pressed>
      <Button
        variant="default"
        size="compact-sm"
        onClick={() => void exportBundle({ rules: rules.map(({ id }) => id), form: 'file', samples: true })}
      >
        Export
      </Button>
      <SpecificationMenu rules={rules.map(({ id }) => id)} />
      <Button
        variant="default"
        size="compact-sm"
        disabled={running.length > 0 && !mayPublish}
        onClick={() => {
          work.remove.mutate(rules);
          clear();
        }}
      >
        Remove
      </Button>
      <Button variant="subtle" size="compact-sm" onClick={clear}>
        Choose none
      </Button>
      {progress && (
        <span className="small" role="status">
          {progress.done} of {progress.of}
        </span>
      )}
    </div>
  );
}

interface AskedProps {
  readonly label: string;
  readonly question: string;
  readonly disabled: boolean;
  readonly done: (said: string) => void;
}

/** A button that asks for a sentence first. */
function Asked({ label, question, disabled, done }: AskedProps) {
  const [open, setOpen] = useState(false);
  return (
    <Pressed label={label} disabled={disabled} open={open} setOpen={setOpen}>
      {(close) => (
        <SentenceForm
          label={label}
          question={question}
          verb={label}
          done={(said) => {
            done(said);
            close();
          }}
        />
      )}
    </Pressed>
  );
}

interface PressedProps {
  readonly label: string;
  readonly disabled?: boolean;
  readonly open: boolean;
  readonly setOpen: (open: boolean) => void;
  readonly children: (close: () => void) => ReactNode;
}

/** A button with what it opens below it. */
function Pressed({ label, disabled = false, open, setOpen, children }: PressedProps) {
  return (
    <Popover opened={open} onChange={setOpen} width={320} trapFocus returnFocus>
      <Popover.Target>
        <Button variant="default" size="compact-sm" disabled={disabled} onClick={() => setOpen(!open)}>
          {label}
        </Button>
      </Popover.Target>
      <Popover.Dropdown>{children(() => setOpen(false))}</Popover.Dropdown>
    </Popover>
  );
}

/** Returns the rules of which the ids are chosen, as the list has them now. */
export function chosenOf(listed: readonly ListedRule[], ids: ReadonlySet<string>): readonly ListedRule[] {
  return listed.filter(({ rule }: { readonly rule: RuleView }) => ids.has(rule.id));
}

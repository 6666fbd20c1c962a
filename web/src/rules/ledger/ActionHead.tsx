import { Button, Select, TextInput } from '@mantine/core';
import { memo } from 'react';
import { createdBefore, type Action, type RuleBody } from '@vast-knot/core';
import { useMayChange } from '../../frame/useRole';
import { SystemTag } from '../../parts/SystemTag';
import { Phrase } from '../Phrase';
import { useSheetTools } from '../SheetContext';
import { TargetChoice } from './TargetChoice';

interface ActionHeadProps {
  readonly at: number;
  readonly action: Action;
  readonly body: RuleBody;
  readonly system: string;
  readonly setAction: (change: (action: Action) => Action) => void;
}

/** “then write to each booking”, “then create a contact as newContact”. */
export function ActionHead({ at, action, body, system, setAction }: ActionHeadProps) {
  return (
    <>
      <span className="word">then</span>
      {action.kind === 'create' ? (
        <Creates action={action} setAction={setAction} />
      ) : (
        <>
          write to <SystemTag system={system} />
          <TargetChoice
            trigger={body.trigger}
            finds={body.finds}
            created={createdBefore(body, action)
              .map(({ alias }) => alias)
              .join(' ')}
            target={action.target}
            setAction={setAction}
          />
        </>
      )}
      {body.actions.length > 1 && <RemoveAction at={at} />}
    </>
  );
}

interface CreatesProps {
  readonly action: Extract<Action, { kind: 'create' }>;
  readonly setAction: ActionHeadProps['setAction'];
}

/** The record type of the new record, and its name in formulas of later actions. */
const Creates = memo(function Creates({ action, setAction }: CreatesProps) {
  const { systems, surroundings } = useSheetTools();
  const { system, recordType, alias } = action;
  const type = surroundings.catalog.recordType(system, recordType);
  const set = (change: Partial<CreatesProps['action']>) =>
    setAction((known) => (known.kind === 'create' ? { ...known, ...change } : known));
  return (
    <span>
      create a{' '}
      <Phrase says={type?.label.toLowerCase() ?? recordType} label={`Record type of ${alias}`}>
        <Select
          label="Record type"
          data={systems.map(({ key, name, recordTypes }) => ({
            group: name,
            items: recordTypes.map((each) => ({ value: `${key}/${each.name}`, label: each.label })),
          }))}
          value={`${system}/${recordType}`}
          onChange={(chosen) => {
            const [key = '', name = ''] = (chosen ?? '').split('/');
            set({ system: key, recordType: name, lines: [] });
          }}
        />
        <TextInput
          label="Its name in formulas of later actions"
          mt={8}
          value={alias}
          onChange={(event) => set({ alias: event.currentTarget.value })}
        />
      </Phrase>{' '}
      in <SystemTag system={system} named /> as <span className="mono">{alias}</span>
    </span>
  );
});

const RemoveAction = memo(function RemoveAction({ at }: { readonly at: number }) {
  const { edit } = useSheetTools();
  const mayChange = useMayChange();
  if (!mayChange) return null;
  return (
    <Button
      variant="subtle"
      color="rust"
      size="compact-xs"
      aria-label={`Remove action ${at + 1}`}
      onClick={() =>
        edit((body) => ({ ...body, actions: body.actions.filter((_action, index) => index !== at) }))
      }
    >
      Remove
    </Button>
  );
});

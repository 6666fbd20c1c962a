import { Checkbox } from '@mantine/core';
import { memo } from 'react';
import {
  article,
  calledAfter,
  creates,
  nameOfCreated,
  type CopyAction,
  type CreateAction,
  type LedgerAction,
  type RuleBody,
} from '@vast-knot/core';
import { RecordTypeSelect } from '../../parts/RecordTypeSelect';
import { SystemTag } from '../../parts/SystemTag';
import { ActionTitle } from '../actions/ActionTitle';
import { OnlyWhen } from '../actions/OnlyWhen';
import { TargetChoice } from '../actions/TargetChoice';
import { ClauseFormula } from '../formula/ClauseFormula';
import { Phrase } from '../../parts/Phrase';
import { RecordName } from '../RecordName';
import { useSheetTools } from '../SheetContext';

interface ActionHeadProps {
  readonly at: number;
  readonly action: LedgerAction;
  readonly body: RuleBody;
  readonly system: string;
  readonly setAction: (change: (action: LedgerAction) => LedgerAction, part?: string) => void;
}

/** “then write to each booking”, “then create a contact as newContact”, “then copy the voyage itself as next”. */
export function ActionHead({ at, action, body, system, setAction }: ActionHeadProps) {
  return (
    <>
      <ActionTitle
        at={at}
        count={body.actions.length}
        settings={creates(action) && <MadeSettings action={action} />}
      >
        {action.kind === 'write' && (
          <>
            write to <SystemTag system={system} />
            <TargetChoice
              body={body}
              action={action}
              onChange={(target) =>
                setAction((known) => (known.kind === 'write' ? { ...known, target } : known))
              }
            />
          </>
        )}
        {action.kind === 'copy' && (
          <>
            copy <SystemTag system={system} />
            <TargetChoice
              body={body}
              action={action}
              value={action.of}
              label="Record that is copied"
              onChange={(of) => setAction((known) => (known.kind === 'copy' ? { ...known, of } : known))}
            />
            as <NewName action={action} setAction={setAction} />
          </>
        )}
        {action.kind === 'create' && <Creates action={action} setAction={setAction} />}
      </ActionTitle>
      <OnlyWhen at={at} only={action.only ?? ''} />
      {creates(action) && action.each !== undefined && (
        <EachOf at={at} each={action.each} setAction={setAction} />
      )}
    </>
  );
}

interface CreatesProps<A> {
  readonly action: A;
  readonly setAction: ActionHeadProps['setAction'];
}

/** The record type of the new record, which takes its lines along, and its name. */
function MadeSettings({ action }: { readonly action: CreateAction | CopyAction }) {
  return (
    <>
      <RecordName label="Its name in formulas of later actions" name={action.alias} />
      {action.kind === 'create' && <CreatedType action={action} />}
    </>
  );
}

function CreatedType({ action }: { readonly action: CreateAction }) {
  const { edit, systems } = useSheetTools();
  const { recordType, alias } = action;
  return (
    <RecordTypeSelect
      systems={systems}
      value={action}
      onChange={(place) =>
        edit((body) => {
          const actions = body.actions.map((each) =>
            each.kind === 'create' && each.alias === alias ? { ...each, ...place, lines: [] } : each,
          );
          const [before, after] = [nameOfCreated(recordType), nameOfCreated(place.recordType)];
          return calledAfter({ ...body, actions }, alias, before, after);
        })
      }
    />
  );
}

/** The record type of the new record, and its name in formulas of later actions. */
const Creates = memo(function Creates({ action, setAction }: CreatesProps<CreateAction>) {
  const { surroundings } = useSheetTools();
  const { system, recordType, alias } = action;
  const type = surroundings.catalog.recordType(system, recordType);
  return (
    <span>
      create {action.each === undefined ? '' : 'several times '}
      {article(type?.label ?? recordType)}{' '}
      <Phrase says={type?.label.toLowerCase() ?? recordType} label={`Record type of ${alias}`}>
        <CreatedType action={action} />
      </Phrase>{' '}
      in <SystemTag system={system} named /> as <NewName action={action} setAction={setAction} />
    </span>
  );
});

/** The name of a new record in formulas of later actions, and how it is made: one for each of a list, reviewed, remembered. */
const NewName = memo(function NewName({ action, setAction }: CreatesProps<CreateAction | CopyAction>) {
  const set = (change: Partial<CreateAction>) =>
    setAction((known) => (creates(known) ? { ...known, ...change } : known));
  const without = (member: 'each' | 'review') =>
    setAction((known) => {
      if (!creates(known)) return known;
      const { [member]: _gone, ...rest } = known;
      return rest;
    });
  return (
    <>
      <Phrase says={<span className="mono">{action.alias}</span>} label={`How ${action.alias} is made`}>
        <RecordName label="Its name in formulas of later actions" name={action.alias} />
        <Checkbox
          mt={10}
          label="One for each element of a list"
          description="The lines read the element as item."
          checked={action.each !== undefined}
          onChange={({ currentTarget: { checked } }) => (checked ? set({ each: '' }) : without('each'))}
        />
        <Checkbox
          mt={10}
          label="Reviewed before it is written"
          description="The person who runs the rule sees the filled form, and changes what differs."
          checked={action.review ?? false}
          onChange={({ currentTarget: { checked } }) => (checked ? set({ review: true }) : without('review'))}
        />
        {action.kind === 'create' && (
          <Checkbox
            mt={10}
            label="Remembered as the counterpart of the record"
            checked={action.counterpart ?? false}
            onChange={({ currentTarget: { checked } }) => set({ counterpart: checked })}
          />
        )}
      </Phrase>
      {action.review && <span className="small"> reviewed before it is written</span>}
    </>
  );
});

function EachOf({
  at,
  each,
  setAction,
}: {
  readonly at: number;
  readonly each: string;
  readonly setAction: ActionHeadProps['setAction'];
}) {
  return (
    <div className="only-when">
      <span className="dim">one for each of</span>
      <span>
        <ClauseFormula
          place={`actions/${at}/each`}
          value={each}
          label={`List of action ${at + 1}`}
          placeholder='a list, such as SPLIT(tasks, ",")'
          onChange={(formula) =>
            setAction((known) => (creates(known) ? { ...known, each: formula } : known), `each ${at}`)
          }
        />
      </span>
    </div>
  );
}

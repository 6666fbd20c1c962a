import { ActionIcon, Checkbox, NumberInput, TextInput } from '@mantine/core';
import { IconGripVertical } from '@tabler/icons-react';
import { memo, useState } from 'react';
import { Link } from 'react-router';
import type { SystemView } from '@vast-knot/core';
import { minuteTime } from '../../parts/time';
import { Verdict } from '../../parts/Verdict';
import { SeverityCount } from '../findings/FindingNote';
import { RunsVersion } from '../RunsVersion';
import { RuleMenu } from './RuleMenu';
import { RuleSentence } from './RuleSentence';
import type { ListedRule } from './ruleList';
import type { RowDeeds } from './useRowDeeds';
import { useRuleDrag } from './useRuleDrag';
import { digits } from '../../parts/habits';

interface RuleRowProps {
  readonly listed: ListedRule;
  readonly systems: readonly SystemView[];
  readonly chosen: boolean;
  /** Whether the rules that it runs among stand beside it, so that it can be given another place. */
  readonly movable: boolean;
  readonly deeds: RowDeeds;
}

/** A rule in the list: what it is called, what it does, how it stands, what it did lately. */
export const RuleRow = memo(function RuleRow({ listed, systems, chosen, movable, deeds }: RuleRowProps) {
  const { rule, errors, warnings, last, failed, state } = listed;
  const { id, draft, published, changedAt, changedBy, folder } = rule;
  const [renaming, setRenaming] = useState(false);
  return (
    <div className="row rule-row">
      <Checkbox
        aria-label={`Choose “${draft.name}”`}
        checked={chosen}
        onChange={({ currentTarget }) => deeds.choose(id, currentTarget.checked)}
      />
      <div className="cut">
        {renaming ? (
          <TextInput
            autoFocus
            size="xs"
            aria-label="Name"
            defaultValue={draft.name}
            maxLength={120}
            onKeyDown={({ key, currentTarget }) => {
              if (key === 'Enter') currentTarget.blur();
              if (key === 'Escape') setRenaming(false);
            }}
            onBlur={({ currentTarget }) => {
              const name = currentTarget.value.trim();
              if (name !== '' && name !== draft.name) deeds.rename(rule, name);
              setRenaming(false);
            }}
          />
        ) : (
          <Link to={`/rules/${id}`} className="rule-name" title={draft.name}>
            {draft.name}
          </Link>
        )}
        <div className="small dim cut" title={draft.note === '' ? undefined : draft.note}>
          <RuleSentence body={draft} systems={systems} />
        </div>
      </div>
      <Place listed={listed} movable={movable && deeds.mayPublish} deeds={deeds} />
      <div>
        {state === 'paused' ? (
          <Verdict tone="will">paused</Verdict>
        ) : (
          <RunsVersion version={published?.version} same={state === 'runs'} />
        )}
        <div className="small dim cut" title={folder}>
          {folder}
        </div>
      </div>
      <div className="small">
        {errors > 0 && <SeverityCount severity="error" number={errors} />}{' '}
        {warnings > 0 && <SeverityCount severity="warning" number={warnings} />}
      </div>
      <div className="small">
        {last ? (
          <Link to={`/runs?rule=${id}`} title="Its runs">
            {minuteTime(last.at)}
          </Link>
        ) : (
          <span className="dim">never</span>
        )}
        {failed > 0 && (
          <div>
            <Link to={`/runs?rule=${id}&result=failed`} className="value wrong">
              {digits(failed)} failed
            </Link>
          </div>
        )}
      </div>
      <div className="small cut">
        {minuteTime(changedAt)}
        <div className="dim cut">{changedBy}</div>
      </div>
      <RuleMenu rule={rule} deeds={deeds} rename={() => setRenaming(true)} />
    </div>
  );
});

/** Where order matters: the place of a rule among those of its record type, to be typed, or dragged. */
function Place({ listed, movable, deeds }: Pick<RuleRowProps, 'listed' | 'movable' | 'deeds'>) {
  const { rule, place, typeName } = listed;
  const { id, draft } = rule;
  const { over, listeners, setDragNode, setDropNode } = useRuleDrag(listed);
  const [typed, setTyped] = useState<number | string>();
  if (!place) return <span />;
  const put = () => {
    if (typeof typed === 'number' && typed !== place.at) deeds.place(id, typed);
    setTyped(undefined);
  };
  return (
    <div
      ref={setDropNode}
      className={`place ${over ? 'over' : ''}`}
      title={`One of ${place.of} rules on ${typeName}, which run in this order.`}
    >
      {movable ? (
        <>
          <ActionIcon
            ref={setDragNode}
            {...listeners}
            component="span"
            variant="subtle"
            size={24}
            aria-hidden
            className="grip"
          >
            <IconGripVertical size={14} />
          </ActionIcon>
          <NumberInput
            aria-label={`Place of “${draft.name}” among the ${place.of} rules on ${typeName}`}
            size="xs"
            w={38}
            min={1}
            max={place.of}
            allowDecimal={false}
            hideControls
            value={typed ?? place.at}
            onChange={setTyped}
            onBlur={put}
            onKeyDown={({ key }) => {
              if (key === 'Enter') put();
              if (key === 'Escape') setTyped(undefined);
            }}
          />
        </>
      ) : (
        <span className="small">{place.at}</span>
      )}
      <span className="small dim">of {place.of}</span>
    </div>
  );
}

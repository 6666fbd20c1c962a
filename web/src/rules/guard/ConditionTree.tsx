import { Button, Select, TextInput } from '@mantine/core';
import type { Condition, ConditionGroup } from '@vast-knot/core';
import { Verdict } from '../../parts/Verdict';
import { ConditionRow } from './ConditionRow';
import { verdictWord, type ConditionVerdict, type Verdicts } from './useVerdicts';

interface ConditionTreeProps {
  readonly tree: Condition;
  readonly verdicts: Verdicts;
  /** Absent for those who may only look. */
  readonly change: ((tree: Condition) => void) | undefined;
}

const groupWords = {
  all: 'all of these hold',
  any: 'any of these holds',
  none: 'none of these holds',
} as const;

/** A guard as sentences: groups of which all, any or none hold, each line with its verdict for the present sample. */
export function ConditionTree({ tree, verdicts, change }: ConditionTreeProps) {
  // A single test is shown as the only part of a group, so that others can be added to it.
  const group: ConditionGroup = tree.kind === 'group' ? tree : { kind: 'group', of: 'all', parts: [tree] };
  const alone = tree.kind !== 'group';
  const placed = alone ? new Map<string, ConditionVerdict | undefined>([['0', verdicts.get('')]]) : verdicts;
  return (
    <div className="conditions" role="group" aria-label="Conditions of the guard">
      <GroupLines
        group={group}
        place=""
        verdictAt={(place) => placed.get(place)}
        change={
          change && ((next) => change(next.parts.length === 1 && alone ? (next.parts[0] ?? next) : next))
        }
      />
    </div>
  );
}

interface GroupLinesProps {
  readonly group: ConditionGroup;
  readonly place: string;
  readonly verdictAt: (place: string) => ConditionVerdict | undefined;
  readonly change: ((group: ConditionGroup) => void) | undefined;
}

function GroupLines({ group, place, verdictAt, change }: GroupLinesProps) {
  const setPart = (at: number, part: Condition) => change?.({ ...group, parts: group.parts.with(at, part) });
  const removePart = (at: number) =>
    change?.({ ...group, parts: group.parts.filter((_part, index) => index !== at) });
  const add = (part: Condition) => change?.({ ...group, parts: [...group.parts, part] });
  return (
    <>
      <span className="group-line">
        <Select
          aria-label={
            place === ''
              ? 'How the conditions count together'
              : `How the conditions of part ${place} count together`
          }
          data={Object.entries(groupWords).map(([value, label]) => ({ value, label }))}
          value={group.of}
          disabled={!change}
          onChange={(of) => (of === 'all' || of === 'any' || of === 'none') && change?.({ ...group, of })}
          w={170}
        />
        <PartVerdict verdict={place === '' ? undefined : verdictAt(place)} />
      </span>
      <ul>
        {group.parts.map((part, at) => {
          const own = place === '' ? String(at) : `${place}/${at}`;
          return (
            <li key={at}>
              {part.kind === 'group' ? (
                <GroupLines
                  group={part}
                  place={own}
                  verdictAt={verdictAt}
                  change={change && ((next) => setPart(at, next))}
                />
              ) : (
                <span className="condition-line">
                  {part.kind === 'test' ? (
                    <ConditionRow test={part} change={change && ((next) => setPart(at, next))} />
                  ) : (
                    <TextInput
                      aria-label={`Formula of condition ${counted(own)}`}
                      className="mono grows"
                      value={part.text}
                      readOnly={!change}
                      onChange={({ currentTarget }) =>
                        setPart(at, { kind: 'formula', text: currentTarget.value })
                      }
                    />
                  )}
                  <PartVerdict verdict={verdictAt(own)} />
                </span>
              )}
              {change && (
                <Button
                  variant="subtle"
                  color="rust"
                  size="compact-xs"
                  aria-label={`Remove condition ${counted(own)}`}
                  onClick={() => removePart(at)}
                >
                  Remove
                </Button>
              )}
            </li>
          );
        })}
        {change && (
          <li>
            <Button
              variant="subtle"
              size="compact-xs"
              onClick={() => add({ kind: 'test', test: 'is not blank', subject: 'id', values: [] })}
            >
              and a condition
            </Button>
            <Button
              variant="subtle"
              size="compact-xs"
              onClick={() =>
                add({
                  kind: 'group',
                  of: 'any',
                  parts: [{ kind: 'test', test: 'is not blank', subject: 'id', values: [] }],
                })
              }
            >
              and a group
            </Button>
          </li>
        )}
      </ul>
    </>
  );
}

function PartVerdict({ verdict }: { readonly verdict: ConditionVerdict | undefined }) {
  if (!verdict) return null;
  const { before, now } = verdict;
  const turned = before !== undefined && before !== now;
  return (
    <span className="part-verdict small">
      {before !== undefined && <span className="dim">before {verdictWord(before)} </span>}
      <Verdict tone={now === true ? (turned ? 'will' : 'settled') : 'quiet'}>now {verdictWord(now)}</Verdict>
    </span>
  );
}

/** Returns the place of a condition as people count: “1”, and inside of a group “2.1”. */
function counted(place: string): string {
  return place
    .split('/')
    .map((at) => Number(at) + 1)
    .join('.');
}

import { Button, Menu } from '@mantine/core';
import { memo } from 'react';
import {
  conditionsOf,
  freeName,
  nameOfFound,
  relationsOf,
  type Find,
  type Finding,
  type Relation,
  type Step,
  type Trigger,
} from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { SystemTag } from '../../parts/SystemTag';
import { useSheetTools } from '../SheetContext';
import { FindClause } from './FindClause';

interface FindsProps {
  readonly trigger: Trigger;
  readonly finds: readonly Find[];
  /** Those about the finds. */
  readonly findings: readonly Finding[];
  /** What the finds gave for the present sample. */
  readonly steps: readonly Extract<Step, { kind: 'find' }>[];
}

/** The clauses “find”: which other records the rule reaches, each with what it found for the present sample. */
export const Finds = memo(function Finds({ trigger, finds, findings, steps }: FindsProps) {
  const { edit, surroundings } = useSheetTools();
  const mayChange = useMay('rules.edit');
  const change = (to: (finds: readonly Find[]) => readonly Find[], part?: string) =>
    edit((known) => ({ ...known, finds: to(known.finds) }), part);
  return (
    <>
      {finds.map((find, at) => (
        <FindClause
          key={at}
          at={at}
          count={finds.length}
          find={find}
          trigger={trigger}
          findings={findings}
          found={steps.find(({ alias }) => alias === find.alias)}
          catalog={surroundings.catalog}
          set={(said, part) =>
            change((known) => known.map((each, index) => (index === at ? { ...each, ...said } : each)), part)
          }
          drop={(member) =>
            change((known) => known.map((each, index) => (index === at ? withoutMember(each, member) : each)))
          }
        />
      ))}
      {mayChange && <AddFind trigger={trigger} add={(find) => change((known) => [...known, find])} />}
    </>
  );
});

function withoutMember(find: Find, member: 'where' | 'order' | 'counterpart'): Find {
  const { [member]: _gone, ...rest } = find;
  return rest;
}

/** Other records to reach: along a relation of the triggering record, or by conditions. */
function AddFind({ trigger, add }: { readonly trigger: Trigger; readonly add: (find: Find) => void }) {
  const { systems, surroundings, current } = useSheetTools();
  const own = surroundings.catalog.recordType(trigger.system, trigger.recordType);
  const relations = relationsOf(trigger, surroundings.catalog);
  const along = (relation: Relation) =>
    own &&
    add({
      alias: freeName(current(), nameOfFound(relation.type.name)),
      system: relation.system,
      recordType: relation.type.name,
      match: conditionsOf(relation, own),
      none: 'stop',
      several: relation.kind === 'points to' ? 'fail' : 'each',
    });
  const byConditions = () => {
    const system = systems.find(({ key }) => key !== trigger.system) ?? systems[0];
    const type = system?.recordTypes[0];
    if (!system || !type) return;
    add({
      alias: freeName(current(), nameOfFound(type.name)),
      system: system.key,
      recordType: type.name,
      match: [{ field: type.nameField, is: 'equal', formula: '' }],
      none: 'stop',
      several: 'fail',
    });
  };
  return (
    <div className="clause bare">
      <span />
      <span>
        <Menu position="bottom-start">
          <Menu.Target>
            <Button variant="subtle" size="compact-xs">
              Find another record
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            {relations.map((relation) => (
              <Menu.Item
                key={`${relation.kind}/${relation.type.name}/${relation.path}`}
                leftSection={<SystemTag system={relation.system} />}
                onClick={() => along(relation)}
              >
                {relationWords(relation)}
              </Menu.Item>
            ))}
            <Menu.Item onClick={byConditions}>A record that is found by what it holds</Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </span>
    </div>
  );
}

/** “the party that it points to (Shipper)”, “every booking that points to it (Shipper)”. */
function relationWords({ kind, type, label }: Relation): string {
  return kind === 'points to'
    ? `the ${type.label.toLowerCase()} that it points to (${label})`
    : `every ${type.label.toLowerCase()} that points to it (${label})`;
}

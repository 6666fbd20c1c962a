import { memo } from 'react';
import { Button, Select, TextInput } from '@mantine/core';
import {
  leafFields,
  type Find,
  type Finding,
  type MatchCondition,
  type Step,
  type SystemView,
} from '@vast-knot/core';
import { useMayChange } from '../frame/useRole';
import { SystemTag } from '../parts/SystemTag';
import { count } from '../parts/time';
import { FindingNotes } from './findings/FindingNote';
import { ClauseFormula } from './formula/ClauseFormula';
import { Phrase } from './Phrase';
import { useSheetTools } from './SheetContext';

interface FindsProps {
  readonly finds: readonly Find[];
  /** Those about the finds. */
  readonly findings: readonly Finding[];
  readonly systems: readonly SystemView[];
  /** What the finds gave for the present sample. */
  readonly steps: readonly Extract<Step, { kind: 'find' }>[];
}

/** The clauses “find”: which other records the rule reaches, each with what it found for the present sample. */
export const Finds = memo(function Finds({ finds, findings, systems, steps }: FindsProps) {
  const { edit } = useSheetTools();
  const mayChange = useMayChange();
  const setFind = (at: number, change: Partial<Find>) =>
    edit((known) => ({
      ...known,
      finds: known.finds.map((find, index) => (index === at ? { ...find, ...change } : find)),
    }));
  const add = () => {
    const system = systems.at(-1);
    const type = system?.recordTypes[0];
    const field = type?.idField;
    if (!system || !type || field === undefined) return;
    const alias = freeAlias(
      type.name,
      finds.map((find) => find.alias),
    );
    const find: Find = {
      alias,
      system: system.key,
      recordType: type.name,
      match: [{ field, is: 'equal', formula: '' }],
      none: 'stop',
      several: 'fail',
    };
    edit((known) => ({ ...known, finds: [...known.finds, find] }));
  };
  return (
    <>
      {finds.map((find, at) => (
        <FindClause
          key={at}
          place={`finds/${at}`}
          find={find}
          systems={systems}
          findings={findings}
          found={steps.find(({ alias }) => alias === find.alias)}
          set={(change) => setFind(at, change)}
          remove={() =>
            edit((known) => ({ ...known, finds: known.finds.filter((_find, index) => index !== at) }))
          }
        />
      ))}
      {mayChange && (
        <div className="clause" style={{ padding: 0 }}>
          <span />
          <span>
            <Button variant="subtle" size="compact-xs" onClick={add}>
              Find another record
            </Button>
          </span>
        </div>
      )}
    </>
  );
});

interface FindClauseProps {
  readonly place: string;
  readonly find: Find;
  readonly findings: readonly Finding[];
  readonly systems: readonly SystemView[];
  readonly found: Extract<Step, { kind: 'find' }> | undefined;
  readonly set: (change: Partial<Find>) => void;
  readonly remove: () => void;
}

const onNone = { stop: 'stops here quietly', fail: 'fails', 'go on': 'goes on with blanks' } as const;

function FindClause({ place, find, findings, systems, found, set, remove }: FindClauseProps) {
  const { fix } = useSheetTools();
  const mayChange = useMayChange();
  const type = systems
    .find(({ key }) => key === find.system)
    ?.recordTypes.find(({ name }) => name === find.recordType);
  const setCondition = (at: number, change: Partial<MatchCondition>) =>
    set({
      match: find.match.map((condition, index) => (index === at ? { ...condition, ...change } : condition)),
    });
  const fields = leafFields(type?.fields ?? []).map(({ path, label }) => ({
    value: path,
    label: `${label} (${path})`,
  }));
  const choose = (value: string | null) => {
    const [system = '', recordType = ''] = (value ?? '').split('/');
    const chosen = systems
      .find(({ key }) => key === system)
      ?.recordTypes.find(({ name }) => name === recordType);
    if (chosen) set({ system, recordType, match: [{ field: chosen.idField, is: 'equal', formula: '' }] });
  };
  return (
    <div className="clause">
      <span className="word">find</span>
      <span>
        {find.several === 'each' ? 'every ' : 'the one '}
        <Phrase says={type?.label.toLowerCase() ?? find.recordType} label={`Record type of ${find.alias}`}>
          <Select
            label="Record type"
            data={systems.map(({ key, name, recordTypes }) => ({
              group: name,
              items: recordTypes.map((each) => ({ value: `${key}/${each.name}`, label: each.label })),
            }))}
            value={`${find.system}/${find.recordType}`}
            onChange={choose}
          />
          <Select
            label="How many"
            mt={8}
            data={[
              { value: 'fail', label: 'the one; several are a mistake' },
              { value: 'each', label: 'every one' },
            ]}
            value={find.several}
            onChange={(several) => set({ several: several === 'each' ? 'each' : 'fail' })}
          />
          <TextInput
            label="Its name in formulas"
            mt={8}
            value={find.alias}
            onChange={(event) => set({ alias: event.currentTarget.value })}
          />
          <Button variant="subtle" color="rust" mt={8} onClick={remove}>
            Remove this find
          </Button>
        </Phrase>{' '}
        in <SystemTag system={find.system} named /> as <span className="mono">{find.alias}</span>, where
        {find.match.map((condition, at) => (
          <div
            key={at}
            style={{
              display: 'grid',
              gridTemplateColumns: '200px 90px 1fr auto',
              gap: 8,
              alignItems: 'start',
              padding: '2px 0',
            }}
          >
            <Select
              aria-label={`Field of ${find.alias} to compare`}
              data={fields}
              value={condition.field}
              searchable
              onChange={(field) => field !== null && setCondition(at, { field })}
            />
            <Select
              aria-label="How it is compared"
              data={[
                { value: 'equal', label: 'is' },
                { value: 'in', label: 'is one of' },
              ]}
              value={condition.is}
              onChange={(is) => setCondition(at, { is: is === 'in' ? 'in' : 'equal' })}
            />
            <span>
              <ClauseFormula
                place={`${place}/match/${at}/formula`}
                value={condition.formula}
                label={`What ${condition.field} of ${find.alias} is compared with`}
                placeholder="a formula, such as id"
                onChange={(formula) => setCondition(at, { formula })}
              />
            </span>
            {mayChange && find.match.length > 1 && (
              <Button
                variant="subtle"
                color="rust"
                onClick={() => set({ match: find.match.filter((_condition, index) => index !== at) })}
              >
                Remove
              </Button>
            )}
          </div>
        ))}
        <div style={{ display: 'flex', gap: 12, alignItems: 'center' }}>
          {mayChange && (
            <Button
              variant="subtle"
              size="compact-xs"
              onClick={() =>
                set({ match: [...find.match, { field: type?.idField ?? 'id', is: 'equal', formula: '' }] })
              }
            >
              and …
            </Button>
          )}
          <span className="small dim">
            On none the rule{' '}
            <Phrase
              says={onNone[find.none]}
              label={`What happens when no ${find.alias} is found`}
              width={220}
            >
              <Select
                label="When none is found, the rule"
                data={Object.entries(onNone).map(([value, label]) => ({ value, label }))}
                value={find.none}
                onChange={(none) => none !== null && set({ none: none as Find['none'] })}
              />
            </Phrase>
            .
          </span>
          {found && (
            <span className="small" style={{ color: 'var(--settled)' }}>
              This sample: {count(found.found, 'record')} found
            </span>
          )}
        </div>
        <FindingNotes findings={findings.filter(({ at }) => isAbout(at, place))} onFix={fix} />
      </span>
    </div>
  );
}

/** Findings about the find itself; those of its formulas stand below them. */
function isAbout(at: string, place: string): boolean {
  return at === place || (at.startsWith(`${place}/`) && !at.endsWith('/formula'));
}

function freeAlias(name: string, taken: readonly string[]): string {
  let alias = name;
  for (let number = 2; taken.includes(alias); number++) alias = `${name}${number}`;
  return alias;
}

import { Button } from '@mantine/core';
import { useState } from 'react';
import {
  calledAfter,
  leafFields,
  nameOfFound,
  relationIn,
  type Catalog,
  type Find,
  type Finding,
  type Step,
  type Trigger,
} from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { RecordTypeSelect, type TypePlace } from '../../parts/RecordTypeSelect';
import { SystemTag } from '../../parts/SystemTag';
import { FindingNotes } from '../findings/FindingNote';
import { ClauseFormula } from '../formula/ClauseFormula';
import { Phrase } from '../../parts/Phrase';
import { PartPlace } from '../part/PartPlace';
import { PartTools } from '../part/PartTools';
import { RecordName } from '../RecordName';
import { useSheetTools } from '../SheetContext';
import { Condition } from './Condition';
import type { FindEdits } from './findEdits';
import { FindSaid, Fold, isSaid } from './FindSaid';
import { FoundNote } from './FoundNote';
import { HowMany } from './HowMany';

interface FindClauseProps extends FindEdits {
  readonly at: number;
  /** How many finds the rule has. */
  readonly count: number;
  readonly find: Find;
  readonly trigger: Trigger;
  readonly findings: readonly Finding[];
  readonly found: Extract<Step, { kind: 'find' }> | undefined;
  readonly catalog: Catalog;
}

/** The clause “find every booking in Freight Desk that points to it …”, with what it found for the present sample. */
export function FindClause({
  at,
  count,
  find,
  trigger,
  findings,
  found,
  catalog,
  set,
  drop,
}: FindClauseProps) {
  const { edit, fix, systems } = useSheetTools();
  const mayChange = useMay('rules.edit');
  const place = `finds/${at}`;
  const here = findings.filter((finding) => finding.at === place || finding.at.startsWith(`${place}/`));
  const [opened, setOpened] = useState(!isSaid(find));
  // What there is to mend is in sight.
  const open = opened || here.some(({ severity }) => severity !== 'note');
  const type = catalog.recordType(find.system, find.recordType);
  const relation = relationIn(find, trigger, catalog);
  const fields = leafFields(type?.fields ?? []).map(({ path, label }) => ({
    value: path,
    label: `${label} (${path})`,
  }));
  const choose = (place: TypePlace) => {
    const chosen = catalog.recordType(place.system, place.recordType);
    if (!chosen) return;
    const match = [{ field: chosen.idField, is: 'equal', formula: '' }] as const;
    const [before, after] = [nameOfFound(find.recordType), nameOfFound(place.recordType)];
    edit((body) => {
      const finds = body.finds.map((each) =>
        each.alias === find.alias ? { ...each, ...place, match } : each,
      );
      return calledAfter({ ...body, finds }, find.alias, before, after);
    });
  };
  return (
    <PartPlace of="finds" at={at} className="clause">
      <span className="word">find</span>
      <span>
        <PartTools of="finds" at={at} count={count} called={`find ${at + 1} (${find.alias})`}>
          <RecordName label="Its name in formulas" name={find.alias} />
          <RecordTypeSelect systems={systems} value={find} onChange={choose} />
        </PartTools>
        {find.several === 'each' ? 'every ' : find.several === 'first' ? 'the first ' : 'the one '}
        <Phrase says={type?.label.toLowerCase() ?? find.recordType} label={`Record type of ${find.alias}`}>
          <RecordTypeSelect systems={systems} value={find} onChange={choose} />
        </Phrase>{' '}
        in <SystemTag system={find.system} named /> as <span className="mono">{find.alias}</span>
        {relation ? (relation.kind === 'points to' ? ' that it points to, ' : ' that points to it, ') : ', '}
        where
        {open ? '' : <FindSaid find={find} fields={type?.fields ?? []} open={() => setOpened(true)} />}
        {open && (
          <>
            {find.match.map((condition, index) => (
              <Condition
                key={index}
                place={`${place}/match/${index}`}
                alias={find.alias}
                condition={condition}
                fields={fields}
                set={(next) => set({ match: find.match.with(index, next) }, `${place}/match/${index}`)}
                remove={
                  find.match.length > 1
                    ? () => set({ match: find.match.filter((_condition, other) => other !== index) })
                    : undefined
                }
              />
            ))}
            {find.where !== undefined && (
              <div className="only-when">
                <span className="dim">of them only those with</span>
                <span>
                  <ClauseFormula
                    place={`${place}/where`}
                    value={find.where}
                    label={`Which of the ${find.alias} found count`}
                    placeholder={`a condition, such as ${find.alias}.status = "active"`}
                    onChange={(where) => set({ where }, `${place}/where`)}
                  />
                </span>
              </div>
            )}
            <div className="find-foot">
              {mayChange && (
                <>
                  <Button
                    variant="subtle"
                    size="compact-xs"
                    onClick={() =>
                      set({
                        match: [...find.match, { field: type?.idField ?? 'id', is: 'equal', formula: '' }],
                      })
                    }
                  >
                    and …
                  </Button>
                  <Button
                    variant="subtle"
                    size="compact-xs"
                    onClick={() => (find.where === undefined ? set({ where: '' }) : drop('where'))}
                  >
                    {find.where === undefined ? 'only those with …' : 'all of them'}
                  </Button>
                </>
              )}
              <HowMany find={find} fields={fields} set={set} drop={drop} />
              <Fold close={opened && isSaid(find) ? () => setOpened(false) : undefined} />
            </div>
          </>
        )}
        {found && <FoundNote find={find} found={found} set={set} />}
        <FindingNotes findings={here.filter((finding) => isAbout(finding.at, place))} onFix={fix} />
      </span>
    </PartPlace>
  );
}

/** Findings about the find itself; those of its formulas stand below them. */
function isAbout(at: string, place: string): boolean {
  return at === place || (at.startsWith(`${place}/`) && !/(formula|as|where)$/.test(at));
}

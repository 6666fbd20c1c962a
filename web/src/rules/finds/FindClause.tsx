import { Button, TextInput } from '@mantine/core';
import {
  leafFields,
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
import { useSheetTools } from '../SheetContext';
import { Condition } from './Condition';
import type { FindEdits } from './findEdits';
import { FoundNote } from './FoundNote';
import { HowMany } from './HowMany';

interface FindClauseProps extends FindEdits {
  readonly place: string;
  readonly find: Find;
  readonly trigger: Trigger;
  readonly findings: readonly Finding[];
  readonly found: Extract<Step, { kind: 'find' }> | undefined;
  readonly catalog: Catalog;
  readonly remove: () => void;
}

/** The clause “find every booking in Freight Desk that points to it …”, with what it found for the present sample. */
export function FindClause({
  place,
  find,
  trigger,
  findings,
  found,
  catalog,
  set,
  drop,
  remove,
}: FindClauseProps) {
  const { fix, systems } = useSheetTools();
  const mayChange = useMay('rules.edit');
  const type = catalog.recordType(find.system, find.recordType);
  const relation = relationIn(find, trigger, catalog);
  const fields = leafFields(type?.fields ?? []).map(({ path, label }) => ({
    value: path,
    label: `${label} (${path})`,
  }));
  const choose = (place: TypePlace) => {
    const chosen = catalog.recordType(place.system, place.recordType);
    if (chosen) set({ ...place, match: [{ field: chosen.idField, is: 'equal', formula: '' }] });
  };
  return (
    <div className="clause" data-find={find.alias}>
      <span className="word">find</span>
      <span>
        {find.several === 'each' ? 'every ' : find.several === 'first' ? 'the first ' : 'the one '}
        <Phrase says={type?.label.toLowerCase() ?? find.recordType} label={`Record type of ${find.alias}`}>
          <RecordTypeSelect systems={systems} value={find} onChange={choose} />
          <TextInput
            label="Its name in formulas"
            mt={8}
            value={find.alias}
            onChange={(event) => set({ alias: event.currentTarget.value }, `${place}/alias`)}
          />
          <Button variant="subtle" color="rust" mt={8} onClick={remove}>
            Remove this find
          </Button>
        </Phrase>{' '}
        in <SystemTag system={find.system} named /> as <span className="mono">{find.alias}</span>
        {relation ? (relation.kind === 'points to' ? ' that it points to, ' : ' that points to it, ') : ', '}
        where
        {find.match.map((condition, at) => (
          <Condition
            key={at}
            place={`${place}/match/${at}`}
            alias={find.alias}
            condition={condition}
            fields={fields}
            set={(next) => set({ match: find.match.with(at, next) }, `${place}/match/${at}`)}
            remove={
              find.match.length > 1
                ? () => set({ match: find.match.filter((_condition, index) => index !== at) })
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
                  set({ match: [...find.match, { field: type?.idField ?? 'id', is: 'equal', formula: '' }] })
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
        </div>
        {found && <FoundNote find={find} found={found} set={set} />}
        <FindingNotes findings={findings.filter(({ at }) => isAbout(at, place))} onFix={fix} />
      </span>
    </div>
  );
}

/** Findings about the find itself; those of its formulas stand below them. */
function isAbout(at: string, place: string): boolean {
  return at === place || (at.startsWith(`${place}/`) && !/(formula|as|where)$/.test(at));
}

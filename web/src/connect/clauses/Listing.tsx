import {
  filters,
  labelOf,
  limitOf,
  pagings,
  type Filter,
  type Paging,
  type RecordTypeStyle,
} from '@vast-knot/core';
import { Phrase } from '../../parts/Phrase';
import { filterBeginnings, pagingBeginnings } from '../beginnings';
import { withMember } from '../../parts/withMember';
import { Clause, Scope } from '../Clause';
import { Choice, Count, Kind, namesIn, OptionalText, Text, WholeText } from '../Inputs';
import { parametersText, readParameters } from '../parameters';
import type { TypeParts } from '../sheetParts';
import { withPart } from '../styleEdits';

type List = RecordTypeStyle['list'];

/** How the records of a type are listed: where they stand in the answer, page by page, and what can be asked for. */
export function Listing(parts: TypeParts) {
  const { draft, type, style, found, because } = parts;
  const { list } = style;
  const set = (next: List, part = 'list') =>
    draft.edit((body) => withPart(body, type.name, 'list', next), part);
  const place = list.items === '' ? 'the answer itself' : list.items;
  return (
    <Clause
      word="Listed"
      reasons={because(type.name, 'list')}
      findings={[...found('connection/usual/list'), ...found(`connection/recordTypes/${type.name}/list`)]}
    >
      by <span className="mono">GET</span>{' '}
      <Phrase
        right="systems.change"
        label="Path of the list"
        says={<span className="mono">{list.path.replace('{path}', style.path)}</span>}
      >
        <Text
          label="Path of the list"
          mono
          value={list.path}
          onChange={(path) => set({ ...list, path }, 'list path')}
          description={`{path} is ${style.path}.`}
        />
        <ParametersText list={list} set={set} />
        <Scope {...parts} type={type.name} plural={type.plural} part="list" />
      </Phrase>
      ; its records are{' '}
      <Phrase
        right="systems.change"
        label="Where the records stand"
        says={<span className="mono">{place}</span>}
      >
        <Text
          label="The list of records"
          mono
          value={list.items}
          onChange={(items) => set({ ...list, items }, 'items')}
          description="A JSON Pointer, as /data; blank for the answer itself. Or press the list in the answer."
        />
        <OptionalText
          label="In each of them, the record"
          mono
          value={list.record}
          onChange={(record) => set(withMember(list, 'record', record), 'record')}
          description="Blank where the element is the record."
        />
        <OptionalText
          label="How many there are in all"
          mono
          value={list.total}
          onChange={(total) => set(withMember(list, 'total', total), 'total')}
        />
        <OptionalText
          label="or the header that says it"
          mono
          value={list.totalHeader}
          onChange={(totalHeader) => set(withMember(list, 'totalHeader', totalHeader), 'total header')}
        />
        <Scope {...parts} type={type.name} plural={type.plural} part="list" />
      </Phrase>
      {list.record !== undefined && (
        <>
          {' '}
          (each in <span className="mono">{list.record}</span>)
        </>
      )}
      , given{' '}
      <Phrase
        right="systems.change"
        width={380}
        label="How the list is paged"
        says={pagingWords(list.paging)}
      >
        <PagingForm paging={list.paging} set={(paging) => set({ ...list, paging }, 'paging')} />
        <Scope {...parts} type={type.name} plural={type.plural} part="list" />
      </Phrase>
      . Some of them are found{' '}
      <Phrase
        right="systems.change"
        width={380}
        label="How records are filtered"
        says={filterWords(list.filter)}
      >
        <FilterForm filter={list.filter} set={(filter) => set({ ...list, filter }, 'filter')} />
        <OptionalText
          label="Parameter of its own search"
          mono
          value={list.search}
          onChange={(search) => set(withMember(list, 'search', search), 'search')}
        />
        <Scope {...parts} type={type.name} plural={type.plural} part="list" />
      </Phrase>
      .
    </Clause>
  );
}

function pagingWords(paging: Paging): string {
  const label = pagings.find(({ kind }) => kind === paging.kind)?.label ?? paging.kind;
  const most = limitOf(paging)?.most;
  return most === undefined ? label : `${label}, ${most} at a time`;
}

function filterWords(filter: Filter): string {
  const label = filters.find(({ kind }) => kind === filter.kind)?.label ?? filter.kind;
  const fields = 'fields' in filter ? filter.fields : undefined;
  return fields === undefined ? label : `${label} (${fields.map(labelOf).join(', ')})`;
}

/** Parameters that every request for the list carries, one on each line. */
function ParametersText({
  list,
  set,
}: {
  readonly list: List;
  readonly set: (next: List, part: string) => void;
}) {
  return (
    <WholeText
      label="Parameters that it always has"
      mono
      value={parametersText(list.parameters)}
      onChange={(next) => set({ ...list, parameters: readParameters(next) }, 'parameters')}
      placeholder="include=all"
    />
  );
}

function PagingForm({ paging, set }: { readonly paging: Paging; readonly set: (paging: Paging) => void }) {
  const limit = limitOf(paging);
  return (
    <>
      <Kind<Paging>
        label="Pages"
        value={paging}
        family={pagings}
        beginnings={pagingBeginnings}
        onChange={(next) => next && set(next)}
      />
      {'parameter' in paging && (
        <Text
          label={paging.kind === 'cursor' ? 'Parameter of the cursor' : 'Parameter'}
          mono
          value={paging.parameter}
          onChange={(parameter) => set({ ...paging, parameter })}
        />
      )}
      {'next' in paging && (
        <Text
          label={paging.kind === 'cursor' ? 'Where the next cursor stands' : 'Where the next address stands'}
          mono
          value={paging.next}
          onChange={(next) => set({ ...paging, next })}
          description="Or press it in the answer."
        />
      )}
      {paging.kind === 'last record' && (
        <>
          <Text
            label="Field of the last record that is sent"
            mono
            value={paging.field}
            onChange={(field) => set({ ...paging, field })}
          />
          <OptionalText
            label="Where it is said whether there are more"
            mono
            value={paging.more}
            placeholder="/has_more"
            onChange={(more) => set(withMember(paging, 'more', more))}
          />
        </>
      )}
      {paging.kind === 'page' && (
        <Choice
          label="The first page is"
          value={String(paging.first)}
          options={['0', '1'].map((value) => ({ value, label: value }))}
          onChange={(first) => set({ ...paging, first: Number(first) })}
        />
      )}
      {paging.kind !== 'none' && (
        <>
          <OptionalText
            label="Parameter of the size of a page"
            mono
            value={limit?.name}
            onChange={(name) =>
              set({ ...paging, limit: { most: limit?.most ?? 100, ...(name !== undefined && { name }) } })
            }
          />
          <Count
            label="Records on a page, at most"
            value={limit?.most}
            onChange={(most) => set({ ...paging, limit: { ...limit, most } })}
          />
        </>
      )}
    </>
  );
}

function FilterForm({ filter, set }: { readonly filter: Filter; readonly set: (filter: Filter) => void }) {
  const fields = 'fields' in filter ? filter.fields : undefined;
  const fieldsText = (
    <WholeText
      label="Fields that can be asked for"
      mono
      value={fields?.join(', ')}
      onChange={(text) => filter.kind !== 'none' && set(withMember(filter, 'fields', namesIn(text)))}
      description="With commas between; blank for all."
    />
  );
  return (
    <>
      <Kind<Filter>
        label="Filter"
        value={filter}
        family={filters}
        beginnings={filterBeginnings}
        onChange={(next) => next && set(next)}
      />
      {filter.kind === 'parameter per field' && (
        <>
          <Text
            label="Name of the parameter"
            mono
            value={filter.name}
            onChange={(name) => set({ ...filter, name })}
            description="{field} stands for the field."
          />
          <Choice
            label="Several values"
            value={filter.several ?? 'repeated'}
            options={[
              { value: 'repeated', label: 'the parameter again for each' },
              { value: 'one at a time', label: 'one at a time' },
            ]}
            onChange={(several) => set({ ...filter, several })}
          />
          {fieldsText}
        </>
      )}
      {filter.kind === 'condition' && (
        <>
          <Text label="Parameter" mono value={filter.name} onChange={(name) => set({ ...filter, name })} />
          <Text
            label="Condition"
            mono
            value={filter.equal}
            onChange={(equal) => set({ ...filter, equal })}
            description="{field} and {value} are filled in."
          />
          {fieldsText}
        </>
      )}
    </>
  );
}

import { useEffect, useState } from 'react';
import type { RecordPage, StoredRecord } from '@vast-knot/core';
import { ask, sentenceOf } from '../../api/client';
import type { TypeKey } from './neededTypes';

/** Most records of each type that are fetched. */
export const mostOfEach = 5000;
const pageSize = 500;

interface ManyRecords {
  /** All of them, once they are there. */
  readonly records: readonly StoredRecord[] | undefined;
  readonly fetched: number;
  /** The types of which there are more than were fetched. */
  readonly more: readonly TypeKey[];
  readonly problem: string | undefined;
}

const start: ManyRecords = { records: undefined, fetched: 0, more: [], problem: undefined };

/** The live records of some types, page by page; leaving the place stops the fetching. */
export function useManyRecords(types: readonly TypeKey[], round: number): ManyRecords {
  const [state, setState] = useState(start);
  const wanted = types.join(' ');
  useEffect(() => {
    let left = false;
    const fetchAll = async () => {
      setState(start);
      const records: StoredRecord[] = [];
      const more: TypeKey[] = [];
      for (const key of wanted.split(' ')) {
        let cursor = '';
        for (let ofType = 0; ofType < mostOfEach;) {
          const query = new URLSearchParams({ limit: String(pageSize), ...(cursor !== '' && { cursor }) });
          const page = await ask<RecordPage>(`/records/${key}?${query.toString()}`);
          if (left) return;
          records.push(...page.records.map(({ ref, record }) => ({ ref, record })));
          ofType += page.records.length;
          cursor = page.next ?? '';
          setState((known) => ({ ...known, fetched: records.length }));
          if (cursor === '') break;
          if (ofType >= mostOfEach) more.push(key);
        }
      }
      setState({ records, fetched: records.length, more, problem: undefined });
    };
    fetchAll().catch((thrown: unknown) => !left && setState({ ...start, problem: sentenceOf(thrown) }));
    return () => {
      left = true;
    };
  }, [wanted, round]);
  return state;
}

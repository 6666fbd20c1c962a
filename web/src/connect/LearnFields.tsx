import { Button } from '@mantine/core';
import {
  parseJson,
  proposeFromRecords,
  type HttpDraft,
  type RecordType,
  type TriedView,
} from '@vast-knot/core';
import type { SavedDraft } from '../parts/useSavedDraft';
import { Clause } from './Clause';

interface LearnProps {
  readonly draft: SavedDraft<HttpDraft>;
  readonly type: RecordType;
  readonly tried: TriedView | undefined;
}

/** Learns the fields of a type from the records that its list just gave. */
export function LearnFields({ draft, type, tried }: LearnProps) {
  const last = tried?.exchanges.at(-1);
  const learn = () => {
    if (!last) return;
    const learnt = proposeFromRecords([{ body: parseJson(last.answerBody), name: type.name }]);
    const [found] = learnt.ok ? learnt.proposal.types : [];
    if (!found) return;
    const { idField, nameField, fields } = found.type;
    draft.edit((body) => ({
      ...body,
      recordTypes: body.recordTypes.map((each) =>
        each.name === type.name ? { ...each, idField, nameField, fields } : each,
      ),
      reasons: [
        ...body.reasons.filter((reason) => reason.type !== type.name),
        ...found.reasons.map((reason) => ({ type: type.name, ...reason })),
      ],
    }));
  };
  return (
    <Clause word="Its fields">
      are not known yet.{' '}
      <Button variant="default" size="compact-sm" disabled={!last || tried?.problem !== ''} onClick={learn}>
        Learn them from these records
      </Button>
    </Clause>
  );
}

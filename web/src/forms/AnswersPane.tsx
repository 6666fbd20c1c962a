import { Button, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { IconSearch } from '@tabler/icons-react';
import type { AnswerStanding, AnswerView, FormSummary } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { StandingBars } from '../parts/StandingBars';
import { Empty, Failure, Loading } from '../parts/states';
import { count, shortTime } from '../parts/time';
import { tell } from '../parts/toast';
import type { AddressChanges } from '../parts/useAddress';
import { Verdict } from '../parts/Verdict';
import { VirtualRows } from '../parts/VirtualRows';
import { AnswerDetail } from './AnswerDetail';
import { answerWords } from './answerWords';
import { answerFilterOf, useAnswers } from './useForms';
import { formPath } from './useFormDraft';

const order: readonly AnswerStanding[] = ['done', 'under way', 'failed', 'refused'];

interface AnswersPaneProps {
  readonly view: FormSummary;
  readonly params: URLSearchParams;
  readonly put: (changes: AddressChanges) => void;
}

/** The answers that came, each with what it did; beside the list the one at hand. */
export function AnswersPane({ view, params, put }: AnswersPaneProps) {
  const named = { system: view.system, recordType: view.type.name };
  const filter = answerFilterOf(params);
  const answers = useAnswers(named, filter);
  const all = answers.data?.pages.flatMap((page) => page.answers) ?? [];
  const counts = answers.data?.pages[0]?.counts ?? view.counts;
  const at = params.get('answer');
  const chosen = all.find(({ id }) => id === at);
  const more =
    answers.hasNextPage && !answers.isFetchingNextPage ? () => void answers.fetchNextPage() : undefined;
  return (
    <div className={chosen ? 'arrival-rows with-row' : 'arrival-rows'}>
      <section className="answer-list" aria-label="Answers">
        <StandingBars
          label="How the answers stand"
          standings={order.map((key) => {
            const [tone, word] = answerWords[key];
            return { key, tone, word, number: counts[key] };
          })}
          outcomes={[]}
          chosen={0}
          filter={filter}
          put={put}
        />
        <div className="list-head">
          <TextInput
            aria-label="Search the answers"
            placeholder="A part of what was answered"
            leftSection={<IconSearch size={13} />}
            value={filter.search ?? ''}
            onChange={({ currentTarget: { value } }) => put({ search: value })}
            className="grows search"
          />
          {counts.refused > 0 && <AllAgain named={named} refused={counts.refused} />}
        </div>
        {answers.isPending && <Loading />}
        {answers.isError && <Failure error={answers.error} again={() => void answers.refetch()} />}
        {answers.data && all.length === 0 && (
          <Empty title="No answer is like that">
            What people answer on the page, and what other forms send, is kept here with what it did.
          </Empty>
        )}
        {all.length > 0 && (
          <VirtualRows
            items={all}
            keyOf={({ id }) => id}
            rowHeight={52}
            label="Answers"
            more={more}
            row={(answer) => (
              <AnswerRow
                answer={answer}
                name={view.type.nameField}
                at={answer.id === at}
                choose={() => put({ answer: answer.id === at ? '' : answer.id })}
              />
            )}
          />
        )}
      </section>
      {chosen && <AnswerDetail answer={chosen} type={view.type} leave={() => put({ answer: '' })} />}
    </div>
  );
}

interface AnswerRowProps {
  readonly answer: AnswerView;
  readonly name: string;
  readonly at: boolean;
  readonly choose: () => void;
}

function AnswerRow({ answer, name, at, choose }: AnswerRowProps) {
  const { id, cameAt, way, sentBy, record, given, problems, standing, run } = answer;
  const [tone, word] = answerWords[standing];
  const called = record?.[name] ?? given[name];
  const why = problems[0]?.because ?? (standing === 'failed' ? run?.because : undefined);
  return (
    <button
      type="button"
      className={`row two-lines ${at ? 'active' : ''}`}
      aria-pressed={at}
      onClick={choose}
    >
      <span className="cut">
        <span className="mono">{id}</span>{' '}
        {typeof called === 'string' || typeof called === 'number' ? String(called) : ''}{' '}
        <span className="small dim">{way === 'page' ? 'on the page' : `sent by ${sentBy}`}</span>
      </span>
      <Verdict tone={tone}>{word}</Verdict>
      <span className="cut small dim">{why ?? count(Object.keys(given).length, 'answer')}</span>
      <span className="mono small dim">{shortTime(cameAt)}</span>
    </button>
  );
}

interface AllAgainProps {
  readonly named: { readonly system: string; readonly recordType: string };
  readonly refused: number;
}

/** Reads all refused answers once more, with the form as it is now. */
function AllAgain({ named, refused }: AllAgainProps) {
  const client = useQueryClient();
  const mayApply = useMay('files.apply');
  const again = useMutation({
    mutationFn: () =>
      ask<{ readonly taken: number; readonly refused: number }>(`${formPath(named)}/again`, {
        method: 'POST',
      }),
    onSuccess: ({ taken, refused: still }) => {
      void client.invalidateQueries({ queryKey: keys.runs });
      void client.invalidateQueries({ queryKey: keys.forms });
      tell(`${count(taken, 'answer')} taken now, ${still === 0 ? 'none' : still} refused still.`);
    },
  });
  if (!mayApply) return null;
  return (
    <>
      <Button variant="default" loading={again.isPending} onClick={() => again.mutate()}>
        {refused === 1 ? 'Try the refused one again' : `Try all ${refused} refused again`}
      </Button>
      {again.isError && (
        <span className="value wrong" role="alert">
          {sentenceOf(again.error)}
        </span>
      )}
    </>
  );
}

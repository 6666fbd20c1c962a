import { Select, TextInput } from '@mantine/core';
import { IconSearch } from '@tabler/icons-react';
import { NavLink, useParams } from 'react-router';
import { noRecord, type MessageSummary } from '@vast-knot/core';
import { useEndpoints, useMessages } from '../api/queries';
import { AsFile } from '../parts/AsFile';
import { SystemTag } from '../parts/SystemTag';
import { Empty, Failure, Loading } from '../parts/states';
import { count, shortTime } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { VirtualRows } from '../parts/VirtualRows';
import { wayWords } from '../parts/wayWords';
import { RunsTabs } from '../runs/RunsTabs';
import { messageVerdict, messageVerdicts } from './messageVerdicts';
import { MessageView } from './MessageView';
import { useAddress } from '../parts/useAddress';

/** Messages that rules sent, newest first, with what came of each; beside the list the one at hand. */
export function MessagesPage() {
  const { id } = useParams();
  const [params, put] = useAddress();
  const messages = useMessages(params);
  const endpoints = useEndpoints().data ?? [];
  const all = messages.data?.pages.flatMap((page) => page.messages) ?? [];
  const more =
    messages.hasNextPage && !messages.isFetchingNextPage ? () => void messages.fetchNextPage() : undefined;
  return (
    <div className={id === undefined ? 'split' : 'split list-beside'}>
      <section aria-label="Messages" className="list-pane">
        <div className="list-head">
          <h1 className="visually-hidden">Messages</h1>
          <RunsTabs />
          <TextInput
            aria-label="Search messages"
            placeholder="Record, rule or type"
            leftSection={<IconSearch size={13} />}
            value={params.get('search') ?? ''}
            onChange={({ currentTarget: { value } }) => put({ search: value })}
            className="grows search"
          />
          <Select
            aria-label="Sent to"
            data={[
              { value: '', label: 'To all addresses' },
              ...endpoints.map(({ key, name }) => ({ value: key, label: `To ${name}` })),
            ]}
            value={params.get('endpoint') ?? ''}
            onChange={(value) => put({ endpoint: value ?? '' })}
            w={170}
          />
          <Select
            aria-label="State"
            data={[
              { value: '', label: 'All messages' },
              ...Object.entries(messageVerdicts).map(([value, [, label]]) => ({ value, label })),
            ]}
            value={params.get('state') ?? ''}
            onChange={(value) => put({ state: value ?? '' })}
            w={160}
          />
          {id === undefined && <AsFile path="/lists/messages" params={params} />}
        </div>
        {messages.isPending && <Loading />}
        {messages.isError && <Failure error={messages.error} again={() => void messages.refetch()} />}
        {messages.data && all.length === 0 && (
          <Empty title="No message yet">
            A rule that sends messages or writes files leaves each of them here, with every try to deliver it.
          </Empty>
        )}
        {all.length > 0 && (
          <VirtualRows
            items={all}
            keyOf={({ id }) => id}
            rowHeight={52}
            label="Messages"
            more={more}
            row={(message) => <MessageRow message={message} query={params.toString()} />}
          />
        )}
      </section>
      {id !== undefined && <MessageView id={id} />}
    </div>
  );
}

function MessageRow({ message, query }: { readonly message: MessageSummary; readonly query: string }) {
  const [tone, word] = messageVerdict(message);
  return (
    <NavLink to={`/messages/${message.id}${query === '' ? '' : `?${query}`}`} className="row two-lines">
      <span className="cut">
        <SystemTag system={message.ref.system} /> <span className="mono">{message.file ?? message.type}</span>{' '}
        {message.ref.id !== noRecord && <span className="small dim">about {message.ref.id}</span>}
      </span>
      <Verdict tone={tone}>{word}</Verdict>
      <span className="cut small dim">
        {message.rule}{' '}
        {message.way === null ? `→ ${message.endpoint}` : wayWords(message.way, message.endpoint)}
        {message.attempts > 1 && `, ${count(message.attempts, 'try', 'tries')}`}
        {message.state !== 'delivered' && message.last !== null && `: ${message.last}`}
      </span>
      <span className="mono small dim">{shortTime(message.createdAt)}</span>
    </NavLink>
  );
}

import { Button } from '@mantine/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import type { SessionView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { Failure, Loading } from '../parts/states';
import { shortTime } from '../parts/time';
import { tellTrouble } from '../parts/toast';

/** The browsers that a person is signed in with: where, since when, and how each is signed out. */
export function Sessions() {
  const client = useQueryClient();
  const sessions = useQuery({
    queryKey: keys.mySessions,
    queryFn: () => ask<SessionView[]>('/session/sessions'),
  });
  const end = useMutation({
    mutationFn: (id: string) => ask(`/session/sessions${id === '' ? '' : `/${id}`}`, { method: 'DELETE' }),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.mySessions }),
    onError: (error) => tellTrouble(sentenceOf(error)),
  });
  return (
    <section aria-label="Where you are signed in">
      <div className="field-tools">
        <h2 className="flush">Where you are signed in</h2>
        {(sessions.data?.length ?? 0) > 1 && (
          <Button variant="subtle" onClick={() => end.mutate('')}>
            Sign out everywhere else
          </Button>
        )}
      </div>
      {sessions.isPending && <Loading />}
      {sessions.isError && <Failure error={sessions.error} />}
      {sessions.data && (
        <table className="people">
          <thead>
            <tr>
              <th scope="col">Browser</th>
              <th scope="col">From</th>
              <th scope="col">Since</th>
              <th scope="col">Last used</th>
              <th scope="col">
                <span className="visually-hidden">What to do</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {sessions.data.map(({ id, here, from, agent, since, seenAt }) => (
              <tr key={id}>
                <td className="breaks">{agent === '' ? 'unknown' : agent}</td>
                <td className="mono">{from}</td>
                <td>{shortTime(since)}</td>
                <td>{shortTime(seenAt)}</td>
                <td className="end">
                  {here ? (
                    <span className="dim">this one</span>
                  ) : (
                    <Button variant="subtle" onClick={() => end.mutate(id)}>
                      Sign it out
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

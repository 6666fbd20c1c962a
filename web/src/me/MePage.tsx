import { useQuery } from '@tanstack/react-query';
import { sessionQuery } from '../api/queries';
import { Account } from './Account';
import { Reading } from './Reading';
import { SecondFactor } from './SecondFactor';
import { Sessions } from './Sessions';
import { Tokens } from './Tokens';

/** A person's own page: how they are called and sign in, how they read, and what asks in their name. */
export function MePage() {
  const session = useQuery(sessionQuery).data;
  if (!session) return null;
  return (
    <article className="page own-page" aria-label="You">
      <div className="page-head">
        <h1>{session.name}</h1>
        <span className="dim">{session.role.name}</span>
      </div>
      {session.mustHaveSecondFactor && (
        <div className="note wrong" role="alert">
          A {session.role.name.toLowerCase()} has a second factor here. Set it up below; until then there is
          nothing else that you can do.
        </div>
      )}
      <SecondFactor session={session} />
      {!session.mustHaveSecondFactor && <Reading />}
      <Account session={session} />
      <Sessions />
      {!session.mustHaveSecondFactor && <Tokens session={session} />}
    </article>
  );
}

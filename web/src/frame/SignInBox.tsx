import type { FormEvent, ReactNode } from 'react';
import { sentenceOf } from '../api/client';

/** The box that stands alone on a page for whoever is not signed in. */
export function SignInBox({
  onSubmit,
  problem,
  children,
}: {
  readonly onSubmit: (event: FormEvent) => void;
  readonly problem: unknown;
  readonly children: ReactNode;
}) {
  return (
    <main className="sign-in">
      <form onSubmit={onSubmit} className="boxed">
        <h1>
          <img src="/knot.svg" alt="" width={28} /> Vast Knot
        </h1>
        {problem !== null && problem !== undefined && (
          <div className="note wrong flush" role="alert">
            {sentenceOf(problem)}
          </div>
        )}
        {children}
      </form>
    </main>
  );
}

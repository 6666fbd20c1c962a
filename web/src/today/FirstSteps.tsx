import { Link } from 'react-router';
import type { TodayView } from '@vast-knot/core';
import { Verdict } from '../parts/Verdict';

/** What comes first where nothing has happened yet. */
export function FirstSteps({ has }: { readonly has: TodayView['has'] }) {
  const steps = [
    [
      has.systems,
      '/systems/connect',
      'Connect a system',
      'from its description, its records, or its database',
    ],
    [has.rules, '/rules', 'Write a rule and publish it', 'when a record changes, what is written elsewhere'],
    [false, '/bench', 'Try it on the bench', 'over a sample, before anything is written'],
  ] as const;
  return (
    <section aria-label="First steps">
      <h2>First steps</h2>
      <ol className="first-steps">
        {steps.map(([done, to, what, how]) => (
          <li key={to}>
            {done && <Verdict tone="settled">done</Verdict>} <Link to={to}>{what}</Link>{' '}
            <span className="small dim">{how}</span>
          </li>
        ))}
      </ol>
    </section>
  );
}

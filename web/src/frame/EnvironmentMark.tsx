import type { EnvironmentColour } from '@vast-knot/core';
import '../team/team.css';

/** The name of this environment, in its colour; nothing where it has no name. */
export function EnvironmentMark({
  name,
  colour,
}: {
  readonly name: string;
  readonly colour: EnvironmentColour;
}) {
  return name === '' ? null : <span className={`environment-mark ${colour}`}>{name}</span>;
}

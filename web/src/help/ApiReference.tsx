import { useQuery } from '@tanstack/react-query';
import { ask } from '../api/client';
import { keys } from '../api/queries';
import { Failure, Loading } from '../parts/states';
import { fits } from './fits';

type Schema = Readonly<Record<string, unknown>>;

/** What is read here of the description of the API (OpenAPI 3.1). */
interface Described {
  readonly info: { readonly description: string };
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
}
interface Operation {
  readonly tags: readonly string[];
  readonly summary: string;
  readonly description: string;
  readonly parameters: readonly {
    readonly name: string;
    readonly in: string;
    readonly required: boolean;
    readonly schema: Schema;
  }[];
  readonly requestBody?: { readonly content: Readonly<Record<string, { readonly schema: Schema }>> };
}

/** Every address of the API: what it takes, and the right that it wants. */
export function ApiReference({ wanted }: { readonly wanted: string }) {
  const api = useQuery({
    queryKey: keys.api,
    queryFn: () => ask<Described>('/openapi.json'),
    staleTime: Infinity,
  });
  if (api.isPending) return <Loading />;
  if (api.isError) return <Failure error={api.error} again={() => void api.refetch()} />;
  const { info, paths } = api.data;
  const shown = Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods)
      .filter(([method, { summary, description }]) => fits([method, path, summary, description], wanted))
      .map(([method, operation]) => ({ method, path, operation })),
  );
  return (
    <>
      <p className="flush">
        {info.description} A program reads the same as OpenAPI 3.1 at{' '}
        <a href="/api/openapi.json">/api/openapi.json</a>.
      </p>
      <table className="grid boxed api-reference">
        <thead>
          <tr>
            <th className="of42">Address</th>
            <th>What it is for, and what it takes</th>
          </tr>
        </thead>
        <tbody>
          {shown.map(({ method, path, operation }) => (
            <tr key={`${method} ${path}`}>
              <td className="mono breaks">
                <strong>{method.toUpperCase()}</strong> /api{path}
              </td>
              <td>
                {operation.summary}. <span className="dim">{operation.description}</span>
                <Given operation={operation} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Given({ operation: { parameters, requestBody } }: { readonly operation: Operation }) {
  const asked = parameters.filter((each) => each.in !== 'path');
  const [body] = Object.entries(requestBody?.content ?? {});
  if (asked.length === 0 && !body) return null;
  return (
    <details>
      <summary>
        {[asked.length > 0 && asked.map(({ name }) => name).join(', '), body && `a body, ${body[0]}`]
          .filter((words) => typeof words === 'string')
          .join('; ')}
      </summary>
      {asked.map(({ name, required, schema }) => (
        <p key={name} className="flush">
          <code>{name}</code> {required ? 'must be there' : 'may be there'}{' '}
          <code className="dim">{JSON.stringify(schema)}</code>
        </p>
      ))}
      {body && <pre className="value">{JSON.stringify(body[1].schema, null, 2)}</pre>}
    </details>
  );
}

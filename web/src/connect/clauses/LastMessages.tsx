import { useMessagesOf } from '../../api/queries';
import { count, shortTime } from '../../parts/time';
import { Verdict } from '../../parts/Verdict';
import { answered, WireExchange } from '../../parts/WireExchange';

/** The last messages of a system that is at work, as they came: what the statements of its telling have to fit. */
export function LastMessages({ system }: { readonly system: string }) {
  const { data = [] } = useMessagesOf(system);
  if (data.length === 0) return <div className="small dim">No message came in the last day.</div>;
  const refused = data.filter(({ status }) => status !== null && status >= 400);
  return (
    <details className="small">
      <summary>
        The last {count(data.length, 'message')}, as they came
        {refused.length > 0 && `; ${refused.length} of them not taken`}
      </summary>
      {data.map((exchange) => (
        <details key={`${exchange.at}${exchange.requestBody.length}`}>
          <summary>
            {shortTime(exchange.at)}{' '}
            {exchange.status !== null && exchange.status >= 400 ? (
              <Verdict tone="wrong">{answered(exchange)}</Verdict>
            ) : (
              answered(exchange)
            )}
          </summary>
          <WireExchange exchange={exchange} />
        </details>
      ))}
    </details>
  );
}

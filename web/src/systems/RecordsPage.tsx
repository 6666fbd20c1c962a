import { useSystems } from '../api/queries';
import { Failure, Loading } from '../parts/states';
import { RecordPane, type PaneState } from './RecordPane';
import { useAddress } from '../parts/useAddress';

/** Records of two systems side by side. What each side shows stands in the address. */
export function RecordsPage() {
  const systems = useSystems();
  const [params, put] = useAddress();
  if (systems.isPending) return <Loading />;
  if (systems.isError) return <Failure error={systems.error} />;
  const [first, second = first] = systems.data;
  const fallback = (key: string | undefined, type: string | undefined) => `${key ?? ''}/${type ?? ''}`;
  const left = read(params.get('left') ?? fallback(first?.key, first?.recordTypes[0]?.name));
  const right = read(params.get('right') ?? fallback(second?.key, second?.recordTypes.at(-1)?.name));
  const update = (side: 'left' | 'right') => (state: PaneState) => {
    put({ [side]: write(state) });
  };
  return (
    <div className="split halves">
      <RecordPane side="Left" state={left} onState={update('left')} />
      <RecordPane side="Right" state={right} onState={update('right')} />
    </div>
  );
}

/** `system/type`, `system/type/id`, with a search after `?`. */
function read(text: string): PaneState {
  const [path = '', search = ''] = text.split('?');
  const [system = '', recordType = '', id] = path.split('/');
  return { system, recordType, search, ...(id !== undefined && id !== '' && { id }) };
}

function write({ system, recordType, id, search }: PaneState): string {
  return `${system}/${recordType}${id === undefined ? '' : `/${id}`}${search === '' ? '' : `?${search}`}`;
}

import { useParams } from 'react-router';
import { LookView } from './LookView';
import { LooksView } from './LooksView';
import './reconcile.css';

/** Rules beside the records that exist: the looks there were, or one of them. */
export function ReconcilePage() {
  const { id } = useParams();
  return id === undefined ? <LooksView /> : <LookView key={id} id={id} />;
}

import { useParams } from 'react-router';
import { ArrivalList } from './ArrivalList';
import { ArrivalSheet } from './ArrivalSheet';
import './arrivals.css';

/** Files that came in, or one of them. */
export function ArrivalsPage() {
  const { id } = useParams();
  return id === undefined ? <ArrivalList /> : <ArrivalSheet key={id} id={id} />;
}

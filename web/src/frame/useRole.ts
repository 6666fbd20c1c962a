import { useQuery } from '@tanstack/react-query';
import { sessionQuery } from '../api/queries';

/** Whether the person may change things. */
export function useMayChange(): boolean {
  return useQuery(sessionQuery).data?.role === 'administrator';
}

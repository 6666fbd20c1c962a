import { useMutation, useQueryClient } from '@tanstack/react-query';
import type { ImportUndone } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { count } from '../parts/time';
import { tell, tellTrouble } from '../parts/toast';

/** Takes an import back, and says what stays. */
export function useUndoImport() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (id: string) => ask<ImportUndone>(`/imports/${id}/undo`, { method: 'POST' }),
    onSuccess: ({ back, stays }) => {
      void client.invalidateQueries();
      const names = stays.map(({ name }) => `“${name}”`).join(', ');
      tell(
        `${count(back, 'thing')} ${back === 1 ? 'is' : 'are'} as before.` +
          (stays.length === 0 ? '' : ` Changed since, and so left as it is: ${names}.`),
      );
    },
    onError: (error) => tellTrouble(sentenceOf(error)),
  });
}

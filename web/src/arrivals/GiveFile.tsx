import { Button, FileButton } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { ArrivalView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';

/** Takes a file that is dropped here or chosen, and opens it. */
export function GiveFile() {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [over, setOver] = useState(false);
  const send = useMutation({
    mutationFn: (file: File) =>
      ask<ArrivalView>(`/arrivals?name=${encodeURIComponent(file.name)}`, { method: 'POST', file }),
    onSuccess: (arrival) => {
      client.setQueryData(keys.arrival(arrival.id), arrival);
      void client.invalidateQueries({ queryKey: keys.arrivals, exact: true });
      void navigate(`/arrivals/${arrival.id}`);
    },
  });
  return (
    <section
      className={`give-file ${over ? 'over' : ''}`}
      aria-label="Give a file"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        const [file] = event.dataTransfer.files;
        if (file) send.mutate(file);
      }}
    >
      <FileButton onChange={(file) => file && send.mutate(file)}>
        {(props) => (
          <Button {...props} color="ember" loading={send.isPending}>
            Choose a file
          </Button>
        )}
      </FileButton>{' '}
      <span className="dim">
        or drop one here: CSV, XLSX, JSON, JSON lines, XML, or tagged records (ISO 2709), also packed as gzip
        or zip.
      </span>
      {send.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(send.error)}
        </div>
      )}
    </section>
  );
}

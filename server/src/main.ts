import { readConfig } from './config/config';
import { startServer } from './server';

async function main(): Promise<void> {
  const running = await startServer(readConfig(process.env), {
    worker: new URL('./worker.mjs', import.meta.url),
    compute: new URL('./compute.mjs', import.meta.url),
  });
  const stop = () => {
    running.stop().then(
      () => process.exit(0),
      () => process.exit(1),
    );
  };
  process.once('SIGTERM', stop);
  process.once('SIGINT', stop);
  if (process.env['STOP_WITH_PARENT'] !== undefined) process.stdin.once('end', stop).resume();
  process.stdout.write(`${running.url}\nready\n`);
}

main().catch((thrown: unknown) => {
  process.stderr.write(
    `Vast Knot did not start: ${thrown instanceof Error ? thrown.message : String(thrown)}\n`,
  );
  process.exit(1);
});

import { existsSync } from 'node:fs';
import { doCommand } from './commands';
import { readConfig } from './config/config';
import { startServer, type ThreadFiles } from './server';

/** Returns the files of the threads, which stand beside this one where it is built; undefined where it runs from its sources. */
function builtThreads(): ThreadFiles | undefined {
  const beside = (name: string) => new URL(name, import.meta.url);
  const files = {
    worker: beside('./worker.mjs'),
    compute: beside('./compute.mjs'),
    files: beside('./files.mjs'),
  };
  return Object.values(files).every((file) => existsSync(file)) ? files : undefined;
}

/** A process that is asked to end has ended by then. */
const stopMs = 9000;

async function main(): Promise<void> {
  const said = await doCommand(process.argv.slice(2), readConfig(process.env));
  if (said) {
    process.stdout.write(`${said.lines.join('\n')}\n`);
    process.exit(said.code);
  }
  const running = await startServer(readConfig(process.env), builtThreads());
  const stop = () => {
    // Whatever still hangs then is taken up by the next process, as after a kill.
    setTimeout(() => process.exit(0), stopMs).unref();
    running.stop().then(
      () => process.exit(0),
      () => process.exit(1),
    );
  };
  process.once('SIGTERM', stop);
  process.once('SIGINT', stop);
  if (process.env['STOP_WITH_PARENT'] !== undefined) process.stdin.once('end', stop).resume();
  if (running.firstLink !== undefined)
    process.stdout.write(
      `Nobody may invite people here yet. Whoever opens this within two days becomes the administrator:\n${running.firstLink}\n`,
    );
  process.stdout.write(`${running.url}\nready\n`);
}

main().catch((thrown: unknown) => {
  process.stderr.write(
    `Vast Knot did not start: ${thrown instanceof Error ? thrown.message : String(thrown)}\n`,
  );
  process.exit(1);
});

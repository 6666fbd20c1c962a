import { applications, startRegister, startStandin } from './index';

/**
 * Starts every stand-in in one process. `STANDINS` is JSON: application name to `{ databaseUrl, port, token, secret? }`; the Berth Register
 * has no port.
 */
interface Settings {
  readonly databaseUrl: string;
  readonly port: number;
  readonly token: string;
  readonly secret?: string;
}

const log = (line: string) => void process.stderr.write(`${line}\n`);

async function main(): Promise<void> {
  const settings = JSON.parse(process.env['STANDINS'] ?? '{}') as Record<string, Settings>;
  const migrations = process.env['STANDIN_MIGRATIONS'] ?? 'standins/migrations';
  const running: { stop(): Promise<void> }[] = [];
  for (const [name, application] of Object.entries(applications)) {
    const own = settings[name];
    if (!own) throw new Error(`STANDINS says nothing about ${name}.`);
    const standin = await startStandin(application, { ...own, migrations, log });
    running.push(standin);
    process.stdout.write(`${name} ${standin.url}\n`);
  }
  const register = settings['berth-register'];
  if (register) {
    const started = await startRegister({ ...register, log });
    running.push(started);
    process.stdout.write(`berth-register ${started.url}\n`);
  }
  const stop = () => void Promise.all(running.map((standin) => standin.stop())).then(() => process.exit(0));
  process.once('SIGTERM', stop);
  process.once('SIGINT', stop);
  if (process.env['STOP_WITH_PARENT'] !== undefined) process.stdin.once('end', stop).resume();
  process.stdout.write('ready\n');
}

main().catch((thrown: unknown) => {
  log(`The stand-ins did not start: ${thrown instanceof Error ? thrown.message : String(thrown)}`);
  process.exit(1);
});

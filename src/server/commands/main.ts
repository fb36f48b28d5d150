import { UsageError } from './options.ts';
import { backupCommand } from './backup.ts';
import { checkStoreCommand } from './check-store.ts';
import { replayCommand } from './replay.ts';

/** What is done with a studio's own files, beside a server that may be at work on them. Each prints one line of JSON. */
interface Outcome {
  answer: object;
  failed: boolean;
}
const COMMANDS: Record<string, (args: string[]) => Outcome | Promise<Outcome>> = {
  backup: backupCommand,
  'check-store': checkStoreCommand,
  replay: replayCommand,
};

const [name, ...args] = process.argv.slice(2);
try {
  const { answer, failed } = await COMMANDS[name](args);
  console.log(JSON.stringify(answer));
  if (failed) process.exitCode = 1;
} catch (error) {
  console.error(`tersum: ${(error as Error).message}`);
  process.exitCode = error instanceof UsageError ? 2 : 1;
}

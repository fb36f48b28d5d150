import type { EditAnswer, PictureState } from '../../contract/api.ts';
import { PICTURES } from '../../contract/addresses.ts';
import { call } from './http.ts';
import { merged } from './merge.ts';

/** A picture as this window knows it. */
interface Live {
  state?: PictureState;
  error?: Error;
  listeners: Set<() => void>;
  /** edits sent and not yet answered: their answers bring what changed, so nothing is asked for meanwhile */
  unanswered: number;
  /** the question that is out, until its answer and what followed from it is taken over */
  asking: Promise<void> | null;
  /** something may have changed that this window has not asked for yet */
  behind: boolean;
  /** the state that the server named last */
  named?: string;
}

const pictures = new Map<string, Live>();

function liveOf(id: string): Live {
  let live = pictures.get(id);
  if (!live) pictures.set(id, (live = { listeners: new Set(), unanswered: 0, asking: null, behind: false }));
  return live;
}

const tell = (live: Live) => live.listeners.forEach((l) => l());

/**
 * Asks for what changed, or for everything where nothing is known yet. One question at a time; what is missed meanwhile is asked
 * for next, before this is done.
 */
function ask(id: string): Promise<void> {
  const live = liveOf(id);
  live.behind = true;
  if (live.asking) return live.asking;
  if (live.unanswered) return Promise.resolve();
  live.asking = catchUp(id, live).finally(() => {
    live.asking = null;
    tell(live);
  });
  return live.asking;
}

async function catchUp(id: string, live: Live): Promise<void> {
  try {
    while (live.behind) {
      live.behind = false;
      const answer = await call(PICTURES.read, { id }, { query: { since: live.state?.mark } });
      const next = merged(live.state, answer);
      if (next) live.state = next;
      else {
        live.state = undefined;
        live.behind = true;
      }
      live.error = undefined;
    }
  } catch (error) {
    live.error = error as Error;
  }
}

/** Looks for what changed on a picture that is shown, up to a mark that the server named. */
export function refreshPicture(id: string, mark?: string): void {
  const live = pictures.get(id);
  if (!live || (!live.listeners.size && !live.state)) return;
  live.named = mark;
  if (!mark || live.state?.mark !== mark) void ask(id);
}

/** Looks for what changed on all pictures that are shown, such as after the connection was lost. */
export function refreshPictures(): void {
  for (const id of pictures.keys()) refreshPicture(id);
}

export const stateOf = (id: string): PictureState | undefined => pictures.get(id)?.state;

/**
 * Sends something that changes a picture; its answer is taken over.
 * @param request gets the name of the state that this window knows
 * @param onShown the state of this window holds what was sent: what was shown meanwhile is not wanted any more, and not before
 */
export async function sendChange<T>(
  id: string,
  request: (known: string | undefined) => Promise<T>,
  changesOf: (answer: T) => EditAnswer,
  onShown: () => void = () => undefined,
): Promise<T> {
  const live = liveOf(id);
  live.unanswered++;
  let answer: T;
  try {
    answer = await request(live.state?.mark);
  } finally {
    live.unanswered--;
  }
  const next = merged(live.state, changesOf(answer));
  if (next) {
    live.state = next;
    onShown();
    tell(live);
  } else live.behind = true;
  if (live.behind && live.named === live.state?.mark) live.behind = false;
  // Whoever sent this goes on with what it changed; what others changed meanwhile follows.
  if (next) {
    if (live.behind) void ask(id);
  } else {
    // A question that went out before this was sent has its answer first; ours comes with the next.
    await ask(id);
    onShown();
  }
  return answer;
}

/** Follows a picture; the first to do so asks for it. */
export function followPicture(id: string, listener: () => void): () => void {
  const live = liveOf(id);
  live.listeners.add(listener);
  void ask(id);
  return () => live.listeners.delete(listener);
}

export const pictureOf = (id: string): { data?: PictureState; error?: Error } => {
  const live = pictures.get(id);
  return { data: live?.state, error: live?.error };
};

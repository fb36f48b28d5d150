import type { Studio } from '../studio.ts';
import type { EndedSessions } from './access.ts';

/** Sessions remembered as ended, at most: more than anybody logs out of before their cookies expire. */
const MOST = 5000;
const NAME = 'ended-sessions';

/** Sessions that were logged out of, as the studio keeps them. */
export async function endedSessions({ store }: Pick<Studio, 'store'>): Promise<EndedSessions> {
  const ids = new Set((await store.setting(NAME, '')).split(' ').filter(Boolean));
  return {
    has: (id) => ids.has(id),
    async add(id) {
      ids.add(id);
      for (const old of [...ids].slice(0, -MOST)) ids.delete(old);
      await store.setSetting(NAME, [...ids].join(' '));
    },
  };
}

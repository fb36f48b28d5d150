import { EventEmitter } from 'node:events';
import type { ServerEvent } from '../../contract/api.ts';

/** Tells all open windows what happened. */
export class Events {
  private readonly emitter = new EventEmitter().setMaxListeners(0);

  send(event: ServerEvent): void {
    this.emitter.emit('event', event);
  }

  listen(listener: (event: ServerEvent) => void): () => void {
    this.emitter.on('event', listener);
    return () => this.emitter.off('event', listener);
  }
}

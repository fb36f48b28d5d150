import { closeSync, existsSync, fsyncSync, openSync, rmSync, statfsSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { Refused } from '../../contract/refused.ts';

const MB = 1e6;
/** Kept free of pictures and edits, so that deleting still works on a full disk: room for the log of one deletion. */
const RESERVE_BYTES = 8 * 1024 * 1024;

export const freeBytes = (folder: string): number => {
  const { bavail, bsize } = statfsSync(folder);
  return bavail * bsize;
};

/** What is said when the disk is full. */
export function diskFull(folder: string, neededBytes: number): Refused {
  const free = Math.floor(freeBytes(folder) / MB);
  const needed = Math.max(free + 1, Math.ceil(neededBytes / MB));
  return new Refused(
    `The disk is full: ${free} MB free, ${needed} MB needed. Nothing was lost. Delete a picture or a job that is done, or make room on the server’s disk.`,
    507,
  );
}

/** @throws Refused when the disk has no room for so many bytes */
export function needRoom(folder: string, bytes: number): void {
  if (freeBytes(folder) < bytes) throw diskFull(folder, bytes);
}

/** Whether an error of the operating system or of the store says that there is no room left. */
export function saysFull(error: unknown): boolean {
  const { code, message } = error as { code?: string; message?: string };
  return (
    code === 'ENOSPC' ||
    code === 'EDQUOT' ||
    code === 'SQLITE_FULL' ||
    /disk is full|no space left/i.test(message ?? '')
  );
}

/** Room set aside in a file of its own, given up when something must be deleted on a full disk. */
export class Reserve {
  private readonly path: string;

  constructor(private readonly folder: string) {
    this.path = join(folder, 'reserve');
  }

  /** Sets the room aside where there is plenty. */
  keep(): void {
    if (existsSync(this.path) || freeBytes(this.folder) < 2 * RESERVE_BYTES) return;
    try {
      const file = openSync(this.path, 'w');
      try {
        const piece = Buffer.alloc(1024 * 1024);
        for (let at = 0; at < RESERVE_BYTES; at += piece.length) writeSync(file, piece, 0, piece.length, at);
        fsyncSync(file);
      } finally {
        closeSync(file);
      }
    } catch {
      rmSync(this.path, { force: true });
    }
  }

  release(): void {
    rmSync(this.path, { force: true });
  }
}

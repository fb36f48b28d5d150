import { randomBytes } from 'node:crypto';
import type { NextFunction, Request, Response } from 'express';
import { z } from 'zod';
import type { Refusal } from '../../contract/api.ts';
import { Refused } from '../../contract/refused.ts';
import { saysFull } from '../store/disk.ts';
import { Cancelled } from '../work/work.ts';

/** What is wrong with one value of a request, in words; fields that name their own reason keep it. */
function wordsFor(issue: z.core.$ZodRawIssue): string {
  switch (issue.code) {
    case 'invalid_type':
      return issue.input === undefined
        ? 'is missing'
        : `must be ${/^[aeiou]/.test(issue.expected) ? 'an' : 'a'} ${issue.expected}`;
    case 'too_small':
      return issue.origin === 'string'
        ? 'must not be empty'
        : `must be ${issue.origin === 'array' ? 'a list of ' : ''}at least ${issue.minimum}`;
    case 'too_big':
      return `must be at most ${issue.maximum}${issue.origin === 'string' ? ' characters' : issue.origin === 'array' ? ' entries' : ''}`;
    case 'invalid_value':
      return `must be one of ${issue.values.map(String).join(', ')}`;
    case 'invalid_union':
      return 'is not of a known kind';
    default:
      return 'is not as it should be';
  }
}
z.config({ customError: wordsFor });

/** Errors of reading a request's body, by the kind that the body parser names. */
const BODY: Record<string, { status: number; message: string }> = {
  'entity.too.large': {
    status: 413,
    message: 'That is more than one edit may hold (20 MB). Do it in smaller portions.',
  },
  'entity.parse.failed': { status: 400, message: 'The request is no valid JSON. Send it again.' },
  'charset.unsupported': { status: 415, message: 'Requests are read as UTF-8 JSON. Send it in that form.' },
  'encoding.unsupported': { status: 415, message: 'Requests are read uncompressed, or packed by gzip, deflate or br.' },
  'request.size.invalid': { status: 400, message: 'The request is shorter or longer than it says. Send it again.' },
  'request.aborted': { status: 400, message: 'The request ended too early. Send it again.' },
};

interface Thrown extends Error {
  status?: number;
  statusCode?: number;
  type?: string;
}

/** What is answered to an error: a sentence for people, without names of libraries or of places on the server. */
export function refusalFor(error: Thrown): { status: number; message: string } {
  if (error instanceof Refused) return { status: error.status, message: error.message };
  if (error instanceof z.ZodError) {
    const [issue] = error.issues;
    const where = issue.path.join('.');
    return { status: 400, message: where ? `${where}: ${issue.message}` : `The request ${issue.message}.` };
  }
  if (error instanceof Cancelled) return { status: 409, message: 'Cancelled.' };
  if (error.type && BODY[error.type]) return BODY[error.type];
  if (error instanceof URIError)
    return { status: 400, message: 'The address cannot be read. Check it for stray % signs.' };
  const status = error.status ?? error.statusCode ?? 500;
  if (status >= 400 && status < 500) return { status, message: 'The request cannot be read. Send it again.' };
  if (saysFull(error))
    return { status: 507, message: 'The disk is full. Delete a picture or a job that is done, or make room on it.' };
  const entry = randomBytes(3).toString('hex');
  console.error(`Error ${entry}:`, error);
  return { status: 500, message: `Something went wrong here. Try again; the server’s log tells more under ${entry}.` };
}

/** Answers every error of a route; none leaves the server with more than a sentence. */
export function answerErrors(error: Thrown, req: Request, res: Response, next: NextFunction): void {
  if (res.headersSent) {
    next(error);
    return;
  }
  const { status, message } = refusalFor(error);
  // What still comes in of a refused file is read and dropped, so that the connection can be used for the next request.
  req.resume();
  res.status(status).json({ message } satisfies Refusal);
}

import type { Request, Response, Router } from 'express';
import type { z } from 'zod';
import type { Endpoint, Raw } from '../../contract/endpoint.ts';

/** A request whose parts have the shape that its endpoint says. */
export interface Asked<Params, Query, Body> {
  params: Params;
  query: Query;
  body: Body;
  req: Request;
  res: Response;
}

/**
 * Answers an endpoint of the contract: what comes in is checked, what goes out has the type that is promised. An endpoint that
 * answers no JSON is answered by `work` itself.
 */
export function serve<
  Answer,
  Path extends string,
  Params extends z.ZodType<object>,
  Query extends z.ZodType<object>,
  Body extends z.ZodType,
>(
  routes: Router,
  endpoint: Endpoint<Answer, Path, Params, Query, Body>,
  work: (
    asked: Asked<z.output<Params>, z.output<Query>, z.output<Body>>,
  ) => Promise<Answer extends Raw ? void : Answer> | (Answer extends Raw ? void : Answer),
): void {
  const { method, path, params, query, body, status } = endpoint;
  const verb = method.toLowerCase() as 'get' | 'post' | 'patch' | 'delete';
  routes[verb](path as string, async (req: Request, res: Response) => {
    const answer = await work({
      params: params.parse(req.params),
      query: query.parse(req.query),
      body: (body ? body.parse(req.body ?? {}) : undefined) as z.output<Body>,
      req,
      res,
    });
    if (answer !== undefined) res.status(status).json(answer);
  });
}

/** Handlers are served as the table of routes says: address, status, who may, and what is taken. */
import {
  applyDecorators,
  createParamDecorator,
  HttpCode,
  RequestMapping,
  RequestMethod,
  SetMetadata,
  type ExecutionContext,
} from '@nestjs/common';
import { ROUTES, type Route, type RouteFacts } from '@stem-trace/contract';
import { INPUTS } from '@stem-trace/contract/schemas';
import type { Request } from 'express';
import { validate } from '../problems/validate.js';

const ROUTE = 'route';

/** Serves a route of the table. */
export function Serve(route: Route): MethodDecorator {
  const [method = 'GET', path = '/'] = route.split(' ');
  return applyDecorators(
    SetMetadata(ROUTE, route),
    RequestMapping({ method: RequestMethod[method as keyof typeof RequestMethod], path }),
    HttpCode(ROUTES[route].status),
  );
}

/** The route that a handler serves. @throws Error where it is none of the table */
export function routeOf(context: ExecutionContext): { readonly route: Route; readonly facts: RouteFacts } {
  const route = Reflect.getMetadata(ROUTE, context.getHandler()) as Route | undefined;
  if (route === undefined)
    throw new Error(`${context.getClass().name}.${context.getHandler().name} serves no route of the table`);
  return { route, facts: ROUTES[route] };
}

/** What was sent, in path, query and body together, as the table's schemas make it. */
export const Input = createParamDecorator((_: unknown, context: ExecutionContext): object => {
  const { route } = routeOf(context);
  const { path, query, body } = INPUTS[route] ?? {};
  const request = context.switchToHttp().getRequest<Request>();
  return {
    ...(path ? validate<object>(path, request.params) : {}),
    ...(query ? validate<object>(query, request.query) : {}),
    ...(body ? validate<object>(body, request.body) : {}),
  };
});

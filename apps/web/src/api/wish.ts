import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import type { WishValues } from '@stem-trace/contract';
import type { Recipe } from '@stem-trace/core/recipes';
import { get, send } from './client.js';

export const recipesQuery = queryOptions({
  queryKey: ['items', 'recipes'],
  queryFn: ({ signal }) => get('/api/recipes', {}, signal),
});

/** @param item `NUMBER` or `NUMBER@B/3` */
export const recipeQuery = (item: string) =>
  queryOptions({
    queryKey: ['item', 'recipe', item],
    queryFn: ({ signal }) => get('/api/recipe', { item }, signal),
  });

/** What is wrong with a recipe that is being edited. */
export const checkQuery = (recipe: Recipe) =>
  queryOptions({
    queryKey: ['recipe check', recipe],
    queryFn: () => send('POST', '/api/recipe/check', { recipe }),
    placeholderData: keepPreviousData,
  });

export const wishPlanQuery = (recipe: string, wishes: WishValues) =>
  queryOptions({
    queryKey: ['item', 'wishes', recipe, wishes],
    queryFn: () => send('POST', '/api/wishes/plan', { recipe, wishes }),
    placeholderData: keepPreviousData,
  });

export const sheetsQuery = (recipe: string) =>
  queryOptions({
    queryKey: ['jobs', 'wishes', recipe],
    queryFn: ({ signal }) => get('/api/wishes', { recipe }, signal),
  });

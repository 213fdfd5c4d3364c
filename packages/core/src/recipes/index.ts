/** Recipes and wishes, apart from the rest of the core: what reckons with units is large, and only the server needs it. */
export {
  applyRecipe,
  checkRecipe,
  EMPTY_RECIPE,
  readWishes,
  sayWishes,
  type Recipe,
  type RecipeAction,
  type RecipeDeed,
  type RecipeExample,
  type RecipeOutcome,
  type RecipeProblem,
  type RecipeRule,
  type WishDefinition,
} from './recipe.js';
export { LONGEST_EXPRESSION } from './expression.js';

/** What a plan is asked for, and recipes of plans. */
export { default as ComparePlans } from './compare-plans.vue'
export { default as OptimisePlan } from './optimise-plan.vue'
export { default as PlanSheet } from './plan-sheet.vue'
export { default as KitRecipe } from './kit-recipe.vue'
export { PLAN_BUTTON } from './words'

export { differencesOfRules, type RuleDifference } from './differences';

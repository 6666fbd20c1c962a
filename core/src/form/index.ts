export { answerOf, leadsFurther, type Answered, type AnswerProblem } from './answer';
export { compileForm, type CompiledForm } from './compileForm';
export { formFindings, typeProblem, type FormFinding } from './formFindings';
export { askable, formSchema, type Form, type FormItem, type FormNote, type FormQuestion } from './form';
export { proposeForm } from './proposeForm';
export { formPage, pageNames, sayingPage, thanksPage, type FormPage } from './page';
export { answerStandings, type AnswerStanding } from './standing';

export * from './model/json';
export { jsonNumber, parseJson, printJson, scalarText } from './model/jsonText';
export { isLongNumber, type LongNumber } from './model/longNumber';
export * from './model/system';
export * from './model/record';
export * from './model/version';
export * from './model/rights';
export * from './model/event';
export * from './model/equal';
export { article } from './model/article';
export { elementsOf, pairElements, type ElementPair } from './model/elements';
export * from './table/table';
export * from './table/tableIndex';
export * from './table/problems';
export { editProblems } from './table/editProblems';
export * from './table/cell';
export { keyColumns, keyText } from './table/key';
export * from './table/rowChange';
export * from './table/tableCsv';
export * from './table/coverage';
export * from './formats/csv';
export {
  fileFormat,
  fileFormats,
  fileSettingsSchema,
  recogniseFile,
  type FileSettings,
} from './formats/files';
export { delimiters, type CsvSettings } from './formats/files/csvFile';
export { sheetNames, type SheetSettings } from './formats/files/sheetFile';
export { encodings, type Encoding } from './formats/files/text';
export type { Address, FileFormat, FileRow, ShownPart } from './formats/files/format';
export { isWorkbook, NotUnpacked, unpacked } from './formats/files/unpacked';
export type { ResultRow } from './formats/files/result';
export { rowWriters } from './formats/written';
export {
  fileNamed,
  fileSourceSchema,
  lastDue,
  missingSince,
  type FileOrigin,
  type FileSource,
} from './arrival/source';
export {
  answerOf,
  answerStandings,
  askable,
  compileForm,
  formFindings,
  formPage,
  formSchema,
  leadsFurther,
  pageNames,
  proposeForm,
  sayingPage,
  thanksPage,
  typeProblem,
  type Answered,
  type AnswerProblem,
  type AnswerStanding,
  type CompiledForm,
  type Form,
  type FormFinding,
  type FormItem,
  type FormNote,
  type FormPage,
  type FormQuestion,
} from './form';
export { specificationOf, type Specification, type SpecifiedFrom } from './specification/specification';
export { specificationHtml, type MadeWhere } from './specification/html';
export { specificationSheets } from './specification/sheets';
export { policyWords } from './engine/actions/policyWords';
export { workbookOf } from './formats/written/sheetWriter';
export {
  TooManyRows,
  type RowWriter,
  type WritingTools,
  type WrittenColumn,
  type WrittenSheet,
} from './formats/written/rowWriter';
export * from './engine/rule';
export * from './model/trigger';
export { isDue, isZone, quietNow, type QuietHours } from './model/clock';
export { instantIn, plainTimeIn } from './model/zoned';
export * from './model/find';
export * from './engine/actions';
export type { WriteAction } from './engine/actions/write';
export type { CreateAction } from './engine/actions/create';
export type { CopyAction } from './engine/actions/copy';
export type { RemoveAction } from './engine/actions/remove';
export type { SendAction, MessagePart } from './engine/actions/send';
export type { FileAction, FileColumn, FileData, FilePlace } from './engine/actions/file';
export type { TidyAction } from './engine/actions/tidy';
export type { ApplyAction } from './engine/actions/apply';
export type { AnyAction, Beginning } from './engine/actions/kind';
export * from './engine/actions/mappingLine';
export * from './model/place';
export * from './engine/actions/tidySteps';
export * from './model/counterpart';
export * from './model/expected';
export * from './model/sample';
export { changeWithRealIds, recordWithRealIds, withRealIds } from './change/realIds';
export { fieldsOf, recordAfter } from './change/fields';
export * from './change/recordChange';
export { editsBetween } from './change/edit';
export { jsonDifferences, type Differences, type JsonChange } from './change/jsonDifferences';
export * from './formats/jsonPointer';
export * from './schema';
export * from './connection';
export * from './change/jsonPatch';
export * from './formats/cloudEvents';
export { FormulaError, type Span } from './formula/error';
export { limits } from './formula/limits';
export { typedIn } from './formula/typedIn';
export { compile, signature, type Compiled, type Formula } from './formula/compile';
export { explain, type Explanation } from './formula/explain';
export { formulaFunctions, functionNamed } from './formula/functions';
export { tokenize, type Token } from './formula/lexer';
export { families, type FormulaFunction } from './formula/functions/define';
export { describeType, typeOfField } from './formula/type';
export { toText, type Value } from './formula/value';
export { eventInstant } from './formula/names';
export type { Env, Scope } from './formula/scope';
export * from './engine/report';
export * from './engine/cascade';
export * from './engine/compiled';
export { compileRule, type RuleCompilation } from './engine/compileRule';
export type { RuleProblem } from './engine/compiling';
export type { Surroundings } from './engine/surroundings';
export { createdBefore, recordNamed, targetOf } from './engine/targetOf';
export { conditionsOf, relationIn, relationsOf, type Relation } from './engine/relations';
export * from './engine/image';
export { suggestLines, type Evidence, type Suggestion } from './suggest/suggest';
export { checkRule, checkRules, checks } from './check';
export { applyFix, type Check, type Finding, type Fix, type Severity } from './check/finding';
export { tableUses, type TableUse } from './engine/tableUses';
export { formulasOf, tablesReadAt, tablesReadBy } from './engine/formulasOf';
export {
  deepestCascade,
  environment,
  runEvent,
  type RunResult as EngineResult,
  type RunSetup,
} from './engine/run';
export { triggerKind, triggerKinds } from './model/triggers';
export { valueChangeText, isWatched } from './model/triggers/updated';
export type { TriggerKind, TriggerMember } from './model/triggers/kind';
export {
  conditionTests,
  fromConditions,
  toConditions,
  valuesOf,
  type Condition,
  type ConditionGroup,
  type ConditionTest,
  type TestName,
} from './formula/conditions';
export { scopeAt } from './engine/scopes';
export { previewLines, reachTargets, type Reach, type Reached } from './engine/preview';
export { completionsAt, signatureAt, type Completion, type SignatureHelp } from './formula/complete';
export { runLines } from './engine/lines';
export { differenceOf, type Difference } from './engine/nearMiss';
export { environmentBefore } from './engine/guard';
export { letsPass, wantsReview } from './engine/runRule';
export { reviewForms, type ReviewForm } from './engine/reviewForms';
export { replaced } from './engine/actions/tidied';
export { fits } from './model/wildcard';
export { afterPolicy } from './engine/policy';
export { withLinked } from './engine/follow';
export {
  explainChain,
  toChain,
  fromChain,
  printChain,
  flowsInto,
  joining,
  stepWords,
  type Chain,
  type ChainStep,
  type ExplainedChain,
} from './formula/chain';
export { parse } from './formula/parser';
export { print, printPath } from './formula/print';
export type { Node } from './formula/tree';
export { explainForReport, toReported } from './engine/reported';
export { toJson } from './formula/toJson';
export { withItem } from './formula/scope';
export * from './replay/outcome';
export * from './replay/expectation';
export * from './replay/compareOutcome';
export { differenceLines } from './replay/differenceLines';
export { expectAll, expectField } from './replay/accept';
export * from './replay/describe';
export * from './replay/history';
export * from './replay/readSamples';
export { eventAsIf, type Supposed } from './replay/asIf';
export { completeSample, type SampleCompletion } from './replay/completeSample';
export { sampleNotes } from './replay/sampleNotes';
export { samplesFromCsv, wholeDraft, type CsvRows } from './replay/samplesFromCsv';
export { maskExpected, maskRecords, maskSample } from './replay/mask';
export type { Keyed } from './replay/maskValue';
export * from './reconcile/existing';
export { atSight } from './reconcile/atSight';
export * from './reconcile/judge';
export * from './reconcile/together';
export { likeCause } from './model/likeCause';
export * from './undo/undo';
export { formulaOf, layoutSchema, type Layout, type LayoutLine } from './arrival/layout';
export {
  compileLayout,
  problemText,
  rowKey,
  type CompiledLayout,
  type Laid,
  type LineProblem,
} from './arrival/lay';
export { layoutText, readLayoutText } from './arrival/layoutText';
export { headOfFile, type BeginningAsked, type FileHead } from './arrival/head';
export { proposeLayout, type InletType, type Proposed, type ProposedFrom } from './arrival/proposeLayout';
export {
  compileTidy,
  taggedStepSchema,
  taggedStepText,
  type Tidied,
  type TidiedField,
  type TidyProblem,
  type TaggedStep,
} from './engine/tidyTagged';
export { readTaggedText, type HeldTagged } from './formats/files/taggedText';
export { tidiedFile } from './arrival/tidiedFile';
export { learnType, type TypeOfFile } from './arrival/learnType';
export { knownPlaces, suggestLayout, type KnownPlace } from './arrival/suggestLayout';
export { judgeRow, rowStandings, type RowJudged, type RowStanding } from './arrival/standing';
export * from './verify/verifyWrite';
export * from './verify/matchValue';
export * from './bundle/bundle';
export { bundleOf, systemsIn } from './bundle/bundleOf';
export { bundledSystem } from './bundle/systemBundle';
export { archiveOf, filesInArchive } from './bundle/archive';
export { canonicalText } from './bundle/canonical';
export { bundleFiles, bundleFolders, bundleText, type BundleFile } from './bundle/files';
export { bundleFormat, type Upgraded } from './bundle/format';
export * from './bundle/items';
export { rebound, type Bindings } from './bundle/rebound';
export { toJUnitXml, type JUnitCase } from './formats/junit';
export { ensemble, replaySample, type Ensemble, type Replayed } from './replay/replay';
export * from './workspace/workspace';
export { matches } from './workspace/matches';
export { AtHandWorkspace } from './workspace/atHand';
export { MemoryWorkspace } from './workspace/memory';
export { OverlayWorkspace } from './workspace/overlay';
export { BeforeWorkspace, WrittenSoFar, type DoneWrite } from './workspace/writtenSoFar';
export * from './contract/session';
export * from './contract/people';
export * from './contract/imports';
export * from './contract/audit';
export * from './contract/connections';
export * from './contract/records';
export * from './contract/rules';
export * from './contract/tables';
export * from './contract/samples';
export * from './contract/runs';
export * from './contract/messages';
export * from './contract/jobs';
export * from './contract/reconciles';
export * from './contract/arrivals';
export * from './contract/forms';
export * from './contract/undo';
export * from './contract/failures';
export * from './contract/pauses';
export * from './contract/telling';
export * from './contract/today';
export * from './contract/health';
export * from './contract/notices';
export { differencesOfRules, type RuleDifference } from './versions';
export {
  calledAfter,
  freeName,
  nameOfCreated,
  nameOfFound,
  nameProblem,
  namesOfRecords,
  renamed,
} from './engine/renamed';
export {
  moved,
  partOf,
  printPart,
  readPart,
  withoutPart,
  withPart,
  type PartPlace,
  type RulePart,
} from './engine/ruleParts';

/**
 * What page and server use of the document, its commands and the API. What stands behind one entry point alone, such as
 * `@lorvek/model/plan-sheet`, is not named here, and what only the model uses is not named at all.
 */
export {
  emptyDrawing,
  DOCUMENT_VERSION,
  PAGE_ID,
  type Page,
  type Build,
  type Surface,
  type Guide,
  type DocRecord,
  type Scope,
  type Drawing,
} from './records/document.ts';
export type { Colour } from './records/colour.ts';
export { treatmentFor } from './queries/new-treatment.ts';
export {
  type CutLine,
  type Paint,
  itemSchema,
  type Item,
  type Row,
  type LetteringItem,
  type BoxItem,
  type OvalItem,
  type ShapeItem,
  type PolygonItem,
  type ArcItem,
  type RetouchSettings,
  type TraceSettings,
  type PictureItem,
  type DimensionItem,
  type DimensionEnd,
  type GroupItem,
  type EdgeCutItem,
} from './records/items.ts';
export { type SpotRule, type PassRule, type Film, type PrintLayer, type Layer, type Medium } from './records/layers.ts';
export {
  TOGETHER,
  PANEL_WAYS,
  MARK_KINDS,
  type MarkKind,
  type Placed,
  type Together,
  type Fill,
  type PanelsFill,
  type Marks,
  type LayUp,
  layUpIdOf,
  USUAL_MARKS,
  USUAL_PANELS,
  defaultLayUp,
} from './records/lay-up.ts';
export {
  MOST_ROWS,
  type Counter,
  type Field,
  type ReadRows,
  type NamedPicture,
  type Series,
  USUAL_COUNTER,
  newSeries,
  newField,
} from './records/series.ts';
export {
  newTreatment,
  type BendTreatment,
  type RingRecord,
  type ShadeRecord,
  type ToneRecord,
  type TreatmentRecord,
  type TreatmentKind,
} from './records/treatments.ts';
export {
  pageOf,
  itemOf,
  filmOf,
  layerOf,
  layUpOf,
  withDescendants,
  leavesOf,
  topOf,
  isOutOfReach,
  layerOfCutLine,
  leavesInScope,
  mirrorOf,
  sliverOf,
  buildOf,
  isLeftOut,
  layersOf,
  filmsOf,
  isPrint,
  isPrinted,
} from './queries/queries.ts';
export { layersByColour, movedSince, wayToPlaceOf, witnessesOf, type Witness } from './queries/placed-artwork.ts';
export { isSame, diff, applyPatch, composePatches, type Patch, invertPatch, isEmptyPatch } from './records/patch.ts';
export { rebasePatch } from './records/rebase.ts';
export {
  isPacked,
  LONG_TEXT,
  pack,
  packedForLog,
  textName,
  textsIn,
  textsNamed,
  textsOut,
  unpack,
  unpackBack,
  unpackLoosely,
  type Packed,
  type TextOf,
} from './records/packed.ts';
export { remember, stepsOf, type Step, type History, EMPTY_HISTORY, historyOf } from './records/history.ts';
export { readNewer, upgradeDrawing, type LooseDrawing } from './records/upgrades.ts';
export { causeKey } from './queries/cause-key.ts';
export {
  gradientAt,
  plainOutline,
  type LeafItem,
  activeTreatments,
  bendOf,
  layersOfItem,
  fontsOf,
  type PlainItem,
  isPlain,
  gradientOf,
  isHelper,
  isAid,
  isCutLine,
  isShaped,
} from './queries/plain-outline.ts';
export { narrowestThatFits, type Material } from './plans/material.ts';
export { spotInksOf } from './plans/spot-inks.ts';
export { usualPasses } from './plans/print-passes.ts';
export { spotsOf, USUAL_WHITE, type WhiteRule } from './plans/white-ink.ts';
export { stopsOf } from './plans/stops.ts';
export { fillOf, inkOfTreatment, printedGradient, treatmentPaint } from './plans/print-art.ts';
export { isUnknown, type Known, type KnownOf } from './queries/known-pieces.ts';
export { isLineSource, lineFor } from './queries/drawn-lines.ts';
export { BELOW_ALL, looseRanks, ranksAbove } from './queries/painting-order.ts';
export { inkOn, isLight } from './queries/ink.ts';
export { leftOutOf, picturesIn, type FileFormat, type LeftOut, type WrittenScope } from './queries/written.ts';
export { isRecord, validateChange, validateDrawing } from './records/validate.ts';
export { planOf, refuse, type Change, type Command, type EditorState } from './commands/plan.ts';
export {
  mapItem,
  copyItems,
  edit,
  tidyMatrix,
  addItems,
  removeItems,
  transformItems,
  moveEach,
  setItemFields,
  setPaths,
  setFilmOfItems,
  reorderItems,
  groupItems,
  ungroupItems,
  replaceItems,
  selectableOf,
} from './commands/items.ts';
export { addEdgeCut, setPaint, setPrinted } from './commands/print-items.ts';
export {
  addFilm,
  removeFilm,
  restackFilms,
  setFilmFields,
  setBuild,
  takeDrawing,
  setUnit,
  setSurface,
  setGuides,
  setSliver,
  setScope,
  setLayUp,
} from './commands/films.ts';
export { layTrace, showWithin } from './commands/trace.ts';
export { setShapeSize, type ShapeSize } from './commands/shape-size.ts';
export { withText, setTreatments, giveTreatments, writeText, tweakLetter } from './commands/treatments.ts';
export { setSeries, layAllRows, setField, takeList, correctCell, setRowsOn, setRowCopies, removeSeries } from './commands/series.ts';
export { addToRow, endRow, setRow, shortenRow } from './commands/rows.ts';
export {
  seriesOf,
  laidSeries,
  rowsOf,
  rowsToLay,
  writtenOf,
  compareLists,
  withList,
  type SeriesRow,
  type Written,
  goneColumns,
  type ListChange,
} from './queries/series-rows.ts';
export {
  jobStateSchema,
  type JobState,
  newJobSchema,
  type NewJob,
  jobChangeSchema,
  type JobChange,
  jobSchema,
  type Job,
  type ChangeKind,
  postChangeSchema,
  type PostChange,
  type LoggedChange,
  type OpenJob,
  type JobHistory,
  type JobVersion,
  newVersionSchema,
  type NewVersion,
  type Health,
  signInSchema,
  type AccessState,
  type Backup,
} from './api/jobs.ts';
export {
  type Roll,
  type StockFilm,
  newStockFilmSchema,
  type NewStockFilm,
  stockFilmChangeSchema,
  type StockFilmChange,
  newRollSchema,
  type NewRoll,
  newSupplySchema,
  type NewSupply,
  supplyChangeSchema,
  type SupplyChange,
  type Supply,
  type Usage,
  type StockReading,
  stockListSchema,
  rollChangeSchema,
  type ToolSetup,
  cuttingChoiceSchema,
  type CuttingChoice,
  type Connection,
  type ColourRule,
  USUAL_COLOUR,
  EVERY_MEDIUM,
  colourRuleOf,
  type Profile,
  printsOf,
  describePlace,
  type MachineKind,
  type Machine,
  machineChangeSchema,
  type MachineChange,
  newMachineSchema,
  type NewMachine,
  benchOrderSchema,
  type BenchOrder,
  type BenchAnswer,
  type Paper,
  type Papers,
  type PaperChoice,
  traySheetSchema,
  type TraySheet,
  type MachineReport,
  type MaterialReport,
  fontKinds,
  fontEntrySchema,
  type FontEntry,
  type Style,
  newStyleSchema,
  type NewStyle,
  type Asset,
  type InboxFile,
  type Inbox,
  shopSettingsSchema,
  type ShopSettings,
  USUAL_SETTINGS,
  describePrice,
} from './api/shop.ts';
export { JOB_STATES } from './api/job-states.ts';
export { isProblem, type Problem } from './api/problem.ts';
export {
  type RunState,
  mayGoOn,
  canMove,
  OPEN_STATES,
  type RunCorrection,
  type Run,
  type CutRun,
  type RunAction,
  actSchema,
  placeSchema,
  originSchema,
  otherMachineSchema,
  type RunEvent,
  type Leftover,
  totalsAskedSchema,
  type RunTotals,
  MOVABLE_STATES,
  isMovable,
  sendSchema,
  type SendOrder,
  cameraSchema,
  type CameraOrder,
  type CameraAnswer,
  type SheetPlate,
  type SheetPlates,
  type SoftLook,
} from './api/runs.ts';
export { describeIssue } from './records/plain-issue.ts';
export type { ItemId, LayerId } from './records/fields.ts';

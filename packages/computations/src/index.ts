/** What is worked out apart from who asks; see `registry.ts`. */
export { answerTo, COMPUTATIONS, type Answer, type InputOf, type OpOf, type OutputOf, type QuestionOf, type Table } from './registry.ts';
export { FontsAtHand } from './fonts-at-hand.ts';
export { handedOver } from './handed-over.ts';
export type { FileHost, FontSource, Host, OpenPicture, Painting, PictureHost, Tell } from './host.ts';
export type { BuildAnswer, BuildAsked, BuiltView } from './build-view.ts';
export type { CleanAnswer, CleanAsked, ShapeToClean } from './clean-shapes.ts';
export type { DrawingFile, Imported, ImportedPart, PageLook, ReadPicture } from './import-drawing.ts';
export type { BoxesLength, NestAnswer, NestAsked, NestPlace } from './nest-parts.ts';
export type { PlannedSheet } from './plan-job.ts';
export type { StackAnswer, StackedPart } from './stack-parts.ts';
export type { TraceAnswer, TraceAsked, TracedPart } from './trace-asset.ts';
export type { WrittenKind } from './write-out.ts';
export type { Made, Operand, WeldKind } from './weld-operands.ts';

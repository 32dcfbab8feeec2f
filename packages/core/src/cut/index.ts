/** Cutting: the order of contours, the blade's way, the time it takes. */
export { containment, orderCuts, type CutOrder } from './order-cuts.ts';
export { planBlade, startContourAt, startOnStraight, type BladeSetup, type ToolPath } from './plan-blade.ts';
export { estimateCut, type CutEstimate, type SpeedSetup } from './estimate.ts';
export { CUT_KINDS, planCut, type CutKind, type CutPlan, type CutSection, type CutWay, type PlannedSection } from './plan-cut.ts';
export { edgeCut, type EdgeCutOptions } from './edge-cut.ts';
export { perforate, type Perforation } from './perforate.ts';
export { bladeTest, CALIBRATION, calibrationSquare, TEST_CUT_MM, testCut, type BladeTry } from './test-pieces.ts';

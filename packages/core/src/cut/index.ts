/** Cutting: the order of contours, the blade's way, the time it takes. */
export { containment, orderCuts, type CutOrder } from './order-cuts.ts';
export { planBlade, startContourAt, type BladeSetup, type ToolPath } from './plan-blade.ts';
export { estimateCut, type CutEstimate, type SpeedSetup } from './estimate.ts';
export { planCut, type CutPlan } from './plan-cut.ts';

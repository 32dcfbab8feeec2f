/** Registration: solving and applying where a printed sheet lies on the machine. */
export { applyCorrection, solveMarks, type Correction, type CorrectionModel, type SolveOptions } from './solve-marks.ts';
export { correctOutline } from './correct-outline.ts';

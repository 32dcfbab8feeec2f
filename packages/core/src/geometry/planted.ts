import '../../../model/src/index.ts';

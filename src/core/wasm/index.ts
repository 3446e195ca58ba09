export { crc32Kernel, adler32Kernel, deflateKernel } from './bytes';
export { codesAt, floatsAt, freshKernels, type KernelPlace, type Kernels } from './instance';
export { InflateKernel, type InflateStatus } from './inflate';
export { tintedReliefKernel, type Tinting } from './relief';
export { CodeComparisonKernel, GroundComparisonKernel, type RowFigures } from './proof';
export { Unfilter16Kernel, filter16Kernel } from './png';
export { FLOATS_AT_ONCE, FloatStatisticsKernel, floatsAboveKernel, type FloatFold } from './floats';
export { halveKernel } from './overview';
export { CodeStatisticsKernel, GroundKernel, quantiseKernel, ResampleKernel, type KernelAxis } from './raster';

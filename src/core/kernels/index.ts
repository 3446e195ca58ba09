export { crc32Kernel, adler32Kernel, deflateKernel } from './bytes';
export { freshKernels, type Kernels } from './instance';
export { InflateKernel, type InflateStatus } from './inflate';
export { tintedReliefKernel, type Tinting } from './relief';
export { Unfilter16Kernel, filter16Kernel } from './png';
export { ResampleKernel, GroundKernel, quantiseKernel, CodeStatisticsKernel, type KernelAxis } from './raster';

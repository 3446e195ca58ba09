import type { ByteSink } from '../../base';
import type { ByteOrder } from '../../raster';
import { HOST_IS_LITTLE, swapBytes } from '../bytes';

/** Writes rows of 16-bit codes as they come, without a header. */
export class RawWriter {
  constructor(
    private readonly sink: ByteSink,
    private readonly byteOrder: ByteOrder,
  ) {}

  async write(codes: Uint16Array): Promise<void> {
    const bytes = new Uint8Array(codes.slice().buffer);
    if ((this.byteOrder === 'little') !== HOST_IS_LITTLE) swapBytes(bytes, 2);
    await this.sink.write(bytes);
  }

  async close(): Promise<void> {
    await this.sink.close();
  }
}

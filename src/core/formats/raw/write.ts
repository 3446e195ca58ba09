import type { ByteSink } from '../../base';
import type { ByteOrder, Codes, Encoding } from '../../raster';
import { bytesOfStored } from '../stored-bytes';

/** Writes rows of stored heights as they come, without a header. */
export class RawWriter {
  constructor(
    private readonly sink: ByteSink,
    private readonly byteOrder: ByteOrder,
    private readonly encoding: Pick<Encoding, 'bits'> = { bits: 16 },
  ) {}

  async write(codes: Codes): Promise<void> {
    await this.sink.write(bytesOfStored(codes, this.encoding, this.byteOrder));
  }

  async close(): Promise<void> {
    await this.sink.close();
  }
}

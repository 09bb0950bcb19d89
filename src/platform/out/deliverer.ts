import { MANIFEST } from '@core/scene';
import { checkedFile, validators, type DeliveredFile, type DeliveryManifest } from '@core/schemas';
import { NotWritten } from '../files/disk';
import type { PublishedPlace, Store } from '../store/store';
import { sumOf } from '../files/sum';
import { handOver, SUMS, sumsText } from './hand-over';
import { placeOf, type Place } from './publish-places';

/** A file that is ready to be delivered. */
export type Ready = Omit<DeliveredFile, 'bytes' | 'sha256' | 'former'> & { blob: Blob };

/** What lies in the folder of a delivery. */
export interface Lying {
  manifest?: DeliveryManifest;
  /** Why nothing can be delivered there: what our own files would be called is somebody else's. */
  fault?: string;
  /** Bytes of the files that were asked for and of those of the manifest, by path. */
  sizes: Map<string, number>;
}

/** Puts the files of a scene into a folder, with a manifest and sums; in a worker. */
export class Deliverer {
  constructor(private readonly store: Store) {}

  private async place(target: PublishedPlace, title: string, create = false): Promise<Place> {
    return placeOf(target, title, new Map((await this.store.roots.toArray()).map((r) => [r.id, r])), create);
  }

  /** Looks what lies in a folder; nothing where there is none yet. @param paths that are going to be delivered */
  async look(target: PublishedPlace, title: string, paths: readonly string[]): Promise<Lying> {
    const place = await this.place(target, title).catch((error: unknown) => {
      if (error instanceof NotWritten && target.kind === 'folder') return undefined;
      throw error;
    });
    const lying: Lying = { sizes: new Map() };
    if (!place) return lying;
    const file = await place.read(MANIFEST);
    try {
      if (file) lying.manifest = checkedFile<DeliveryManifest>(await file.text(), validators.delivery, MANIFEST);
    } catch (error) {
      lying.fault = (error as Error).message;
    }
    if (!file && (await place.size(SUMS)) !== undefined)
      lying.fault = `${SUMS} lies there, and no delivery of a scene does.`;
    for (const path of new Set([...paths, ...(lying.manifest?.files ?? []).map((f) => f.path)])) {
      const size = await place.size(path);
      if (size !== undefined) lying.sizes.set(path, size);
    }
    return lying;
  }

  /**
   * Puts a file into its place, and reads it again.
   * @param before what was delivered there: only that is replaced
   * @throws NotWritten where somebody else’s file lies there
   */
  async put(target: PublishedPlace, title: string, ready: Ready, before?: DeliveredFile): Promise<DeliveredFile> {
    const { blob, path, what, of } = ready;
    const sum = await sumOf(blob);
    await handOver(await this.place(target, title, true), { path, blob, sum, before: before?.sha256 });
    return { path, what, of, bytes: blob.size, sha256: sum };
  }

  /** Whether a file is still what was delivered, which is read for it. */
  async isWhole(target: PublishedPlace, title: string, { path, sha256 }: DeliveredFile): Promise<boolean> {
    const there = await (await this.place(target, title)).read(path);
    return there !== undefined && (await sumOf(there)) === sha256;
  }

  /** Writes what was delivered into manifest and sums. */
  async close(target: PublishedPlace, title: string, manifest: DeliveryManifest): Promise<void> {
    const place = await this.place(target, title, true);
    const text = new Blob([`${JSON.stringify(manifest, undefined, 2)}\n`]);
    const sum = await sumOf(text);
    await handOver(place, { path: MANIFEST, blob: text, sum, own: true });
    const sums = manifest.files.map(({ path, sha256 }) => ({ path, sum: sha256 }));
    const list = new Blob([sumsText([...sums, { path: MANIFEST, sum }])]);
    await handOver(place, { path: SUMS, blob: list, sum: await sumOf(list), own: true });
  }
}

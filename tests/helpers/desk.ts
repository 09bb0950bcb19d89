import type { Change, Sound, Tag } from '@core/library';
import { Catalogue } from '@platform/catalogue/catalogue';
import { Labeller } from '@platform/labelling/labeller';
import type { Shelf } from '@platform/store/shelves';
import { emptyStore } from './browser';
import { soundOf } from './catalogue';

/** A catalogue and a labeller on an empty store, as the window has them. */
export class Desk {
  catalogue!: Catalogue;
  labeller!: Labeller;
  where!: Int32Array;
  private readonly open: Catalogue[] = [];

  /** Begins with nothing. */
  async fresh(): Promise<void> {
    emptyStore();
    await this.start();
  }

  /** Opens what the store holds. */
  async start(...shelves: Shelf[]): Promise<void> {
    this.catalogue = new Catalogue();
    await this.catalogue.open();
    this.open.push(this.catalogue);
    this.where = new Int32Array(new SharedArrayBuffer(16));
    this.labeller = await Labeller.start(this.catalogue, this.where, shelves);
  }

  close(): void {
    for (const c of this.open.splice(0)) c.close();
  }

  put(label: string, changes: Change[], undoable = true): Promise<void> {
    return this.catalogue.apply({ label, at: 1, undoable, changes });
  }

  take(...sounds: Sound[]): Promise<void> {
    return this.put(
      'Take in',
      sounds.map((s) => ({ table: 'sounds', id: s.id, after: { ...s } })),
      false,
    );
  }

  async one(id: number): Promise<Sound> {
    return (await this.catalogue.sounds([id]))[0];
  }

  async fields(id: number): Promise<Sound['fields']> {
    return (await this.one(id)).fields;
  }

  async tagNames(): Promise<Map<string, number>> {
    return new Map(((await this.catalogue.all('tags')) as Tag[]).map((t) => [t.name, t.id]));
  }
}

/** A sound as intake leaves it: its name made from that of the file. */
export const raw = (id: number, path: string, more = {}): Sound => ({
  ...soundOf(id, {
    file: path.slice(path.lastIndexOf('/') + 1),
    folder: path.slice(0, Math.max(0, path.lastIndexOf('/'))),
    ...more,
  }),
  path,
  from: { fxName: 'name', file: 'name', folder: 'folder' },
});

import { decodeText } from '@core/library';
import {
  frameRate,
  incomingEdl,
  incomingOtio,
  PROJECT_MOST,
  readDawproject,
  readEdl,
  readOtio,
  type Incoming,
  type Scene,
} from '@core/scene';
import { BlobReader, configure, ZipReader } from '@zip.js/zip.js';
import { isArchive, textIn } from './entries';
import { readSceneArchive, unpackInto, type SceneArchive, type Unpacked } from './scene-archives';

/** What a list or project from elsewhere holds, and whether it leaves it to the reader what its timecodes count. */
export interface ReadList extends Incoming {
  counted: boolean;
}

/** Bytes of an edit list or timeline at most: real ones have some thousands for each minute. */
const MOST = 64e6;

// It runs in a worker of ours already; workers made from text are none that a page of ours may start.
configure({ useWebWorkers: false });

/** The text of the `project.xml` in an archive; nothing else of it is unpacked. @throws Error in words */
async function projectIn(file: Blob): Promise<string> {
  const reader = new ZipReader(new BlobReader(file));
  try {
    for await (const entry of reader.getEntriesGenerator()) {
      if (entry.directory || entry.filename !== 'project.xml') continue;
      if (entry.uncompressedSize > PROJECT_MOST) throw new Error('its project.xml is larger than any project');
      return await textIn(entry);
    }
  } catch (error) {
    const { message } = error as Error;
    throw new Error(/^its /.test(message) ? message : `the archive is damaged (${message})`, { cause: error });
  } finally {
    await reader.close();
  }
  throw new Error('it is an archive without a project.xml');
}

/** Reads edit lists, timelines and projects from elsewhere, and scene files, in a worker. */
export class ListReader {
  /** What a scene file holds; see `readSceneArchive`. */
  scenes(...of: Parameters<typeof readSceneArchive>): Promise<SceneArchive> {
    return readSceneArchive(...of);
  }

  /** Unpacks what lies in a scene file; see `unpackInto`. */
  unpack(...of: Parameters<typeof unpackInto>): Promise<Unpacked[]> {
    return unpackInto(...of);
  }

  /**
   * What the file is, its content decides.
   * @param fps name of the rate that an edit list counts in
   * @throws Error in words
   */
  async read(file: Blob, name: string, scene: Scene, fps: string): Promise<ReadList> {
    if (await isArchive(file))
      return { ...readDawproject(await projectIn(file), name, scene.sampleRate), counted: false };
    if (file.size > MOST) throw new Error('it is larger than any edit list or timeline: 64 MB are read at most');
    const text = decodeText(new Uint8Array(await file.arrayBuffer()));
    if (/^\s*\{/.test(text)) return { ...incomingOtio(readOtio(text, scene.sampleRate), scene), counted: false };
    const rate = frameRate(fps);
    return { ...incomingEdl(readEdl(text, rate), scene, rate), counted: true };
  }
}

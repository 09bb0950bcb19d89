import { publisherKey } from '@core/elsewhere';
import { checked, validators, type PublicKey, type PublisherKeyFile } from '@core/schemas';
import Dexie, { type EntityTable } from 'dexie';

/** The pair of keys by which a publisher's name is published. */
export interface PublisherKey {
  publisher: string;
  private: CryptoKey;
  public: PublicKey;
}

const kind = { name: 'ECDSA', namedCurve: 'P-256' } as const;

/** Keys of publishers, in a database of their own: they are no part of the library, nor of its backups. */
export class PublisherKeys {
  private readonly db = new Dexie('cormorant-keys') as Dexie & {
    keys: EntityTable<PublisherKey & { name: string }, 'name'>;
  };

  constructor() {
    this.db.version(1).stores({ keys: 'name' });
  }

  /** The key of a name; undefined where this browser has none. */
  async of(publisher: string): Promise<PublisherKey | undefined> {
    return this.db.keys.get(publisherKey(publisher));
  }

  private async keep(publisher: string, pair: { private: CryptoKey; public: PublicKey }): Promise<PublisherKey> {
    const key = { publisher: publisher.trim(), ...pair };
    await this.db.keys.put({ ...key, name: publisherKey(publisher) });
    return key;
  }

  /** Makes a key for a name that has none. */
  async make(publisher: string): Promise<PublisherKey> {
    const known = await this.of(publisher);
    if (known) return known;
    // It can be carried elsewhere: whoever loses it can never publish under this name again.
    const pair = await crypto.subtle.generateKey(kind, true, ['sign', 'verify']);
    return this.keep(publisher, { private: pair.privateKey, public: await publicOf(pair.publicKey) });
  }

  /** A key as a file, to be kept somewhere safe. */
  async file(key: PublisherKey): Promise<PublisherKeyFile> {
    const { x, y, d } = await crypto.subtle.exportKey('jwk', key.private);
    return {
      format: 'cormorant-key',
      version: 1,
      publisher: key.publisher,
      key: { kty: 'EC', crv: 'P-256', x: x!, y: y!, d: d! },
    };
  }

  /** Takes a key on from its file. @throws Error that says what is wrong with it */
  async open(text: string): Promise<PublisherKey> {
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch (error) {
      throw new Error('This is no key: it is no JSON.', { cause: error });
    }
    const { publisher, key } = checked<PublisherKeyFile>(value, validators.publisherKeyFile, 'The key');
    const { x, y } = key;
    try {
      const own = await crypto.subtle.importKey('jwk', { ...key }, kind, true, ['sign']);
      return await this.keep(publisher, { private: own, public: { kty: 'EC', crv: 'P-256', x, y } });
    } catch (error) {
      throw new Error('This is no key: its numbers do not belong together.', { cause: error });
    }
  }
}

async function publicOf(key: CryptoKey): Promise<PublicKey> {
  const { x, y } = await crypto.subtle.exportKey('jwk', key);
  return { kty: 'EC', crv: 'P-256', x: x!, y: y! };
}

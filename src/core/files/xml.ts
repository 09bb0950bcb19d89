import { XMLBuilder, XMLParser, XMLValidator } from 'fast-xml-parser';

/** Labels written as XML that are longer than this are left out; real ones have a few thousand characters. */
const LONGEST = 400_000;

const options = {
  parseTagValue: false,
  parseAttributeValue: false,
  // Entities that expand into each other are the classic bomb; the five of XML itself are all that labels need.
  processEntities: { enabled: true, maxEntityCount: 0, maxTotalExpansions: 20_000, maxExpandedLength: LONGEST },
  maxNestedTags: 40,
};
const ixmlParser = new XMLParser({ ...options, ignoreAttributes: true });
const xmpParser = new XMLParser({ ...options, ignoreAttributes: false, attributeNamePrefix: '' });
const builder = new XMLBuilder({ format: true, suppressEmptyNode: true });

function flatten(node: unknown, path: string, into: Map<string, string>): void {
  if (Array.isArray(node)) {
    node.forEach((item, i) => flatten(item, i === 0 ? path : `${path}.${i + 1}`, into));
  } else if (node !== null && typeof node === 'object') {
    for (const [key, value] of Object.entries(node)) flatten(value, `${path}.${key}`, into);
  } else {
    const text = String(node ?? '').trim();
    if (text && into.size < 5000) into.set(path, text);
  }
}

function refused(text: string, name: string): string | undefined {
  if (text.length > LONGEST) return `the ${name} block has ${text.length} characters; it was left out`;
  if (/<!(DOCTYPE|ENTITY)/i.test(text)) return `the ${name} block declares entities of its own; it was left out`;
  return undefined;
}

/**
 * Reads an iXML chunk into `labels` under keys such as `iXML.PROJECT`, `iXML.BEXT.BWF_DESCRIPTION`, `iXML.ASWG.fxName`.
 * Elements that repeat get `.2`, `.3` behind the name. Follows the iXML specification 3.x and its ASWG-G006 extension.
 * @returns a warning when the XML is broken; what could be read of it is added all the same
 */
export function readIxml(text: string, labels: Map<string, string>): string | undefined {
  const no = refused(text, 'iXML');
  if (no) return no;
  try {
    const root = (ixmlParser.parse(text) as Record<string, unknown>)['BWFXML'];
    if (root === undefined) return 'the iXML chunk has no BWFXML element';
    flatten(root, 'iXML', labels);
    const sound = XMLValidator.validate(text);
    return sound === true ? undefined : `the iXML chunk is not well-formed XML (${sound.err.msg})`;
  } catch (error) {
    return `the iXML chunk is not well-formed XML (${(error as Error).message})`;
  }
}

type Node = Record<string, unknown>;

/** The text of an XMP value: itself, or the items of its Alt, Bag or Seq. */
function xmpText(value: unknown): string {
  if (Array.isArray(value)) return value.map(xmpText).filter(Boolean).join('; ');
  if (value === null || typeof value !== 'object') return String(value ?? '').trim();
  const node = value as Node;
  const list = (node['rdf:Alt'] ?? node['rdf:Bag'] ?? node['rdf:Seq']) as Node | undefined;
  if (list) {
    const items = [list['rdf:li']].flat();
    // Of alternatives in several languages the first one is the default.
    return node['rdf:Alt'] ? xmpText(items[0]) : items.map(xmpText).filter(Boolean).join('; ');
  }
  return xmpText(node['#text'] ?? '');
}

/**
 * Reads an XMP packet (ISO 16684-1), as the `_PMX` chunk of a WAV file holds it, into keys such as `XMP.dc:title` and
 * `XMP.xmpDM:tempo`, be they written as elements or as attributes.
 * @returns a warning when there is no such packet or it is broken
 */
export function readXmp(text: string, labels: Map<string, string>): string | undefined {
  const no = refused(text, 'XMP');
  if (no) return no;
  try {
    const parsed = xmpParser.parse(text) as Node;
    const meta = (parsed['x:xmpmeta'] ?? parsed) as Node;
    const rdf = meta['rdf:RDF'] as Node | undefined;
    if (!rdf) return 'the XMP packet has no rdf:RDF element';
    for (const about of [rdf['rdf:Description']].flat()) {
      if (about === null || typeof about !== 'object') continue;
      for (const [key, value] of Object.entries(about as Node)) {
        if (!/^[\w-]+:[\w-]+$/.test(key) || /^(xmlns|rdf|xml):/.test(key)) continue;
        const found = xmpText(value);
        if (found && !labels.has(`XMP.${key}`)) labels.set(`XMP.${key}`, found);
      }
    }
    return undefined;
  } catch (error) {
    return `the XMP packet is not well-formed XML (${(error as Error).message})`;
  }
}

/** Nested text values, as iXML nests them. */
export interface IxmlTree {
  [element: string]: string | IxmlTree;
}

/** Writes an iXML document; the inverse of {@link readIxml} for trees without repeated elements. */
export function writeIxml(tree: IxmlTree): string {
  return `<?xml version="1.0" encoding="UTF-8"?>\n${builder.build({ BWFXML: { IXML_VERSION: '3.01', ...tree } })}`;
}

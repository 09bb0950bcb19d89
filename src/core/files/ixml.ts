import { XMLBuilder, XMLParser, XMLValidator } from 'fast-xml-parser';

const parser = new XMLParser({ ignoreAttributes: true, parseTagValue: false, processEntities: { enabled: true } });
const builder = new XMLBuilder({ format: true, suppressEmptyNode: true });

function flatten(node: unknown, path: string, into: Map<string, string>): void {
  if (Array.isArray(node)) {
    node.forEach((item, i) => flatten(item, i === 0 ? path : `${path}.${i + 1}`, into));
  } else if (node !== null && typeof node === 'object') {
    for (const [key, value] of Object.entries(node)) flatten(value, `${path}.${key}`, into);
  } else {
    const text = String(node ?? '').trim();
    if (text) into.set(path, text);
  }
}

/**
 * Reads an iXML chunk into `labels` under keys such as `iXML.PROJECT`, `iXML.BEXT.BWF_DESCRIPTION`, `iXML.ASWG.fxName`.
 * Elements that repeat get `.2`, `.3` behind the name. Follows the iXML specification 3.x and its ASWG-G006 extension.
 * @returns a warning when the XML is broken; what could be read of it is added all the same
 */
export function readIxml(text: string, labels: Map<string, string>): string | undefined {
  try {
    const root = (parser.parse(text) as Record<string, unknown>)['BWFXML'];
    if (root === undefined) return 'the iXML chunk has no BWFXML element';
    flatten(root, 'iXML', labels);
    const sound = XMLValidator.validate(text);
    return sound === true ? undefined : `the iXML chunk is not well-formed XML (${sound.err.msg})`;
  } catch (error) {
    return `the iXML chunk is not well-formed XML (${(error as Error).message})`;
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

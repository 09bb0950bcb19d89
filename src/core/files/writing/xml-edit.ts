import { XMLBuilder, XMLParser, XMLValidator } from 'fast-xml-parser';

// XML as it lies: elements in order, with their attributes, comments and white space, so that all that is not changed stays.

const options = {
  preserveOrder: true,
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  parseTagValue: false,
  parseAttributeValue: false,
  trimValues: false,
  commentPropName: '#comment',
  cdataPropName: '#cdata',
} as const;
const parser = new XMLParser({
  ...options,
  processEntities: { enabled: true, maxEntityCount: 0, maxTotalExpansions: 20_000, maxExpandedLength: 400_000 },
  maxNestedTags: 40,
});
const builder = new XMLBuilder({ ...options, format: false, suppressEmptyNode: true });

/** One element, text or comment in order: its name is its only key beside its attributes. */
type Ordered = Record<string, unknown>;

const ATTRIBUTES = ':@';
const nameOf = (node: Ordered) => Object.keys(node).find((k) => k !== ATTRIBUTES) ?? '';
const inside = (node: Ordered) => node[nameOf(node)] as Ordered[];
const textNode = (text: string): Ordered => ({ '#text': text });

/** @returns undefined for what is no well-formed XML, or declares entities: such a text is left as it is */
export function parseOrdered(text: string): Ordered[] | undefined {
  if (/<!(DOCTYPE|ENTITY)/i.test(text) || XMLValidator.validate(text) !== true) return undefined;
  try {
    return parser.parse(text) as Ordered[];
  } catch {
    return undefined;
  }
}

export const buildOrdered = (nodes: Ordered[]): string => builder.build(nodes);

/** Elements of a name among others, in order. */
const elements = (nodes: readonly Ordered[], name: string) => nodes.filter((n) => nameOf(n) === name);

/** Sets the text of an element at a path, which is made where it is not; an empty text takes it away. */
export function setElement(nodes: Ordered[], [name, ...rest]: readonly string[], text: string): void {
  const [found] = elements(nodes, name);
  if (rest.length > 0) {
    if (!found && text === '') return;
    const node = found ?? { [name]: [] };
    if (!found) nodes.push(node);
    setElement(inside(node), rest, text);
    return;
  }
  if (text === '') {
    if (found) nodes.splice(nodes.indexOf(found), 1);
  } else if (found) found[name] = [textNode(text)];
  else nodes.push({ [name]: [textNode(text)] });
}

/** An iXML text with elements of BWFXML set, by their paths; undefined where it cannot be changed safely. */
export function withIxml(text: string, texts: ReadonlyMap<string, string>): string | undefined {
  const nodes = parseOrdered(text);
  const [root] = nodes ? elements(nodes, 'BWFXML') : [];
  if (!nodes || !root) return undefined;
  for (const [path, value] of texts) setElement(inside(root), path.split('.'), value);
  return buildOrdered(nodes);
}

/** The items of an XMP property; undefined for one without any. */
function itemsOf(property: Ordered): { list: Ordered; items: Ordered[] } | undefined {
  const list = inside(property).find((n) => /^rdf:(Alt|Bag|Seq)$/.test(nameOf(n)));
  return list && { list, items: elements(inside(list), 'rdf:li') };
}

/**
 * An XMP packet in which properties that are there have other values (ISO 16684-1); none is added. A bag gets one item for each part
 * between semicolons or commas, of alternatives the first is changed. Undefined where it cannot be changed safely.
 */
export function withXmp(text: string, texts: ReadonlyMap<string, string>): string | undefined {
  const nodes = parseOrdered(text);
  if (!nodes) return undefined;
  const meta = elements(nodes, 'x:xmpmeta')[0];
  const rdf = elements(meta ? inside(meta) : nodes, 'rdf:RDF')[0];
  if (!rdf) return undefined;
  for (const about of elements(inside(rdf), 'rdf:Description'))
    for (const [name, value] of texts) {
      const attributes = about[ATTRIBUTES] as Record<string, string> | undefined;
      if (attributes && `@${name}` in attributes) attributes[`@${name}`] = value;
      for (const property of elements(inside(about), name)) {
        const held = itemsOf(property);
        if (!held) property[name] = [textNode(value)];
        else if (nameOf(held.list) === 'rdf:Alt') {
          if (held.items[0]) held.items[0]['rdf:li'] = [textNode(value)];
        } else {
          const parts = value.split(/[,;]/).map((p) => p.trim());
          held.list[nameOf(held.list)] = parts.filter(Boolean).map((p) => ({ 'rdf:li': [textNode(p)] }));
        }
      }
    }
  return buildOrdered(nodes);
}

import { XMLBuilder, XMLParser } from 'fast-xml-parser';

/** What metadata are to say of how a picture came about. */
export interface Provenance {
  /** web address of a digital source type; null: nothing is said */
  sourceType: string | null;
  /** a plain sentence */
  disclosure: string;
  editor: string;
  software: string;
  /** ISO 8601 */
  when: string;
}

type Node = Record<string, unknown> & { ':@'?: Record<string, string> };

const NAMES = {
  rdf: 'http://www.w3.org/1999/02/22-rdf-syntax-ns#',
  ext: 'http://iptc.org/std/Iptc4xmpExt/2008-02-29/',
  dc: 'http://purl.org/dc/elements/1.1/',
  mm: 'http://ns.adobe.com/xap/1.0/mm/',
  event: 'http://ns.adobe.com/xap/1.0/sType/ResourceEvent#',
};
const OPTIONS = {
  preserveOrder: true,
  ignoreAttributes: false,
  attributeNamePrefix: '',
  trimValues: false,
  processEntities: true,
};

const tagOf = (node: Node): string => Object.keys(node).find((k) => k !== ':@') ?? '';
const childrenOf = (node: Node): Node[] => {
  const own = node[tagOf(node)];
  return Array.isArray(own) ? (own as Node[]) : [];
};
const element = (tag: string, children: Node[], attributes?: Record<string, string>): Node => ({
  [tag]: children,
  ...(attributes && { ':@': attributes }),
});
const text = (value: string): Node => ({ '#text': value });

/** The RDF element of a packet, wherever it stands; null where there is none. */
function rdfOf(nodes: Node[]): Node | null {
  for (const node of nodes) {
    if (tagOf(node).endsWith(':RDF')) return node;
    const inner = rdfOf(childrenOf(node));
    if (inner) return inner;
  }
  return null;
}

const REPLACED = /:(DigitalSourceType|DigitalSourcefileType)$/;

/** Takes out of a description what is said anew. */
function withoutOld(description: Node): void {
  const attributes = description[':@'];
  if (attributes) for (const name of Object.keys(attributes)) if (REPLACED.test(name)) delete attributes[name];
  const tag = tagOf(description);
  description[tag] = childrenOf(description).filter((c) => !REPLACED.test(tagOf(c)));
}

/** Whether the picture is described already, which is kept. */
const isDescribed = (description: Node): boolean =>
  Object.keys(description[':@'] ?? {}).some((n) => n.endsWith(':description')) ||
  childrenOf(description).some((c) => tagOf(c).endsWith(':description'));

/** The events of an edit history that is there, which the new one goes on from. */
function historyOf(rdf: Node): Node[] {
  for (const description of childrenOf(rdf)) {
    const at = childrenOf(description).findIndex((c) => tagOf(c).endsWith(':History'));
    if (at < 0) continue;
    const [history] = childrenOf(description).splice(at, 1);
    return childrenOf(history).flatMap((seq) => childrenOf(seq));
  }
  return [];
}

function described(
  { sourceType, disclosure, editor, software, when }: Provenance,
  before: Node[],
  told: boolean,
): Node {
  const event = element('rdf:li', [], {
    'rdf:parseType': 'Resource',
  });
  const said: Array<[string, string]> = [
    ['stEvt:action', 'edited'],
    ['stEvt:when', when],
    ['stEvt:softwareAgent', software],
    ['stEvt:parameters', editor ? `${disclosure} By ${editor}.` : disclosure],
  ];
  event['rdf:li'] = said.map(([tag, value]) => element(tag, [text(value)]));
  const children: Node[] = [element('xmpMM:History', [element('rdf:Seq', [...before, event])])];
  const plain = element('rdf:li', [text(disclosure)], { 'xml:lang': 'x-default' });
  if (!told) children.unshift(element('dc:description', [element('rdf:Alt', [plain])]));
  if (sourceType) children.unshift(element('Iptc4xmpExt:DigitalSourceType', [text(sourceType)]));
  return element('rdf:Description', children, {
    'rdf:about': '',
    'xmlns:Iptc4xmpExt': NAMES.ext,
    'xmlns:dc': NAMES.dc,
    'xmlns:xmpMM': NAMES.mm,
    'xmlns:stEvt': NAMES.event,
  });
}

/** An empty packet. */
const EMPTY = `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="${NAMES.rdf}"></rdf:RDF></x:xmpmeta>`;

/**
 * An XMP packet that says, beside all that it said before, how the picture came about: digital source type, an event of the edit history
 * with a plain sentence, and that sentence as its description where it has none. A packet that cannot be read is kept as it is.
 * Source: XMP Specification Part 2 (xmpMM:History, ResourceEvent); IPTC Photo Metadata Standard (Digital Source Type), from memory.
 */
export function xmpWithProvenance(xmp: Uint8Array | null, provenance: Provenance): Buffer {
  const packet = xmp ? Buffer.from(xmp).toString('utf8') : EMPTY;
  // What stands around the packet is written anew.
  const body = packet.replace(/<\?xpacket[^>]*\?>/g, '').trim();
  let nodes: Node[];
  try {
    nodes = new XMLParser(OPTIONS).parse(body) as Node[];
  } catch {
    return Buffer.from(xmp!);
  }
  const rdf = rdfOf(nodes);
  if (!rdf) return xmp ? Buffer.from(xmp) : Buffer.from(EMPTY);
  const before = historyOf(rdf);
  for (const description of childrenOf(rdf)) withoutOld(description);
  const told = childrenOf(rdf).some(isDescribed);
  rdf[tagOf(rdf)] = [...childrenOf(rdf), described(provenance, before, told)];
  const built = new XMLBuilder({ ...OPTIONS, format: false }).build(nodes);
  return Buffer.from(`<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>${built}<?xpacket end="w"?>`, 'utf8');
}

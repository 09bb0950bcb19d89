import { baseName } from './words';

/** The parts of a file name after the Universal Category System, version 8. */
export interface UcsName {
  catId: string;
  userCategory?: string;
  vendorCategory?: string;
  fxName: string;
  creatorId?: string;
  sourceId?: string;
  userData?: string;
}

/**
 * Parses `CatID[-UserCategory]_[VendorCategory-]FXName_CreatorID_SourceID[_UserData]`.
 * @param isCatId whether a text is a CatID of the list in use; a name that begins with anything else is no UCS name
 * @returns undefined when the name does not follow the pattern
 */
export function parseUcsName(path: string, isCatId: (text: string) => boolean): UcsName | undefined {
  const [first, second, creatorId, sourceId, ...rest] = baseName(path).split('_');
  if (!second) return undefined;
  const dash = first.indexOf('-');
  const catId = dash < 0 ? first : first.slice(0, dash);
  if (!isCatId(catId)) return undefined;
  // A vendor category is one leading word in front of a dash; dashes inside a name stand between spaces or later on.
  const vendor = /^([^\s-]+)-(?=\S)(.+)$/.exec(second);
  const name: UcsName = { catId, fxName: (vendor ? vendor[2] : second).trim() };
  if (dash >= 0) name.userCategory = first.slice(dash + 1);
  if (vendor) name.vendorCategory = vendor[1];
  if (creatorId) name.creatorId = creatorId;
  if (sourceId) name.sourceId = sourceId;
  if (rest.length > 0) name.userData = rest.join('_');
  return name;
}

/** Composes a UCS file name without ending; the inverse of {@link parseUcsName} for valid parts. */
export function composeUcsName(name: UcsName): string {
  const first = name.userCategory === undefined ? name.catId : `${name.catId}-${name.userCategory}`;
  const second = name.vendorCategory === undefined ? name.fxName : `${name.vendorCategory}-${name.fxName}`;
  const parts = [first, second, name.creatorId ?? '', name.sourceId ?? '', name.userData ?? ''];
  while (parts.length > 2 && parts[parts.length - 1] === '') parts.pop();
  return parts.join('_');
}

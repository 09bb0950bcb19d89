import { creditGroups, type CreditLine } from '@core/scene';

/** The credits as a part of a web page: a list in which all names are text, and licences lead to their own. */
export function creditPart(lines: readonly CreditLine[]): string {
  const page = document.implementation.createHTMLDocument();
  const list = page.createElement('ul');
  for (const { sound, author, licence, url, changed } of creditGroups(lines).flat()) {
    const line = page.createElement('li');
    line.append(`“${sound}” by ${author}, `);
    if (url) line.append(Object.assign(page.createElement('a'), { href: url, rel: 'license', textContent: licence }));
    else line.append(licence);
    if (changed) line.append(', changed');
    list.append(line);
  }
  return `${list.outerHTML}\n`;
}

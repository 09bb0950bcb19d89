import { stem } from '@core/naming';

/** Words that mean the same: each, in any of its forms, stands for the others of its groups. */
export class AlikeWords {
  private readonly byStem = new Map<string, string[]>();

  /** @param groups of folded words */
  constructor(groups: readonly (readonly string[])[] = []) {
    for (const group of groups)
      for (const word of group) {
        const root = stem(word);
        this.byStem.set(root, [...(this.byStem.get(root) ?? []), ...group.filter((other) => other !== word)]);
      }
  }

  /** The words that mean the same as one. */
  of(word: string): readonly string[] {
    return this.byStem.get(stem(word)) ?? [];
  }
}

import page from "../../../../docs/words.md?raw";

export interface Word {
  word: string;
  /** What it means; empty where the word says it. */
  means: string;
}

export interface Words {
  title: string;
  words: Word[];
}

/** The tables of a page of words, each under its heading. */
export function wordsOf(text: string): Words[] {
  const groups: Words[] = [];
  for (const line of text.split("\n")) {
    const cells = line.startsWith("| ")
      ? line
          .split("|")
          .slice(1, 3)
          .map((cell) => cell.trim().replace(/\*/g, ""))
      : [];
    const [word, means = ""] = cells;
    if (line.startsWith("## ")) groups.push({ title: line.slice(3), words: [] });
    else if (word && word !== "word") groups[groups.length - 1]?.words.push({ word, means });
  }
  return groups;
}

/** The product's words, as the documents have them. */
export const productWords = wordsOf(page);

import { describe, expect, it } from "vitest";
import { fields, groups } from "../src/areas/queues/fields";
import { kindWord, type StepKind, stepForms, stepKinds } from "../src/areas/flows/kinds";
import { often, partsOf, type SmallField, type StepField } from "../src/areas/flows/stepFields";
import { wayWords } from "../src/areas/flows/sheet/TargetPicker";
import { productWords, wordsOf } from "../src/areas/help/words";
import { readWhole } from "../src/areas/shared/NumberBox";

/** The names that a form of a stop sets, those within sentences too. */
function namesOf(list: (StepField | SmallField)[]): string[] {
  return list.flatMap((field) =>
    field.kind === "row"
      ? namesOf(field.words.filter((word) => typeof word !== "string"))
      : "name" in field
        ? [field.name]
        : [],
  );
}

describe("the form of each kind of stop", () => {
  it.each(stepKinds)("%s sets what a new one holds, and nothing else", (kind: StepKind) => {
    const made = Object.keys(stepForms[kind].make("en"));
    const names = namesOf(stepForms[kind].fields);
    expect(names.filter((name) => !made.includes(name))).toEqual([]);
    expect(new Set(names).size).toBe(names.length);
    expect(kindWord(kind)).not.toBe("");
  });

  it.each(stepKinds.filter((kind) => kind !== "menu"))("%s offers each way out that a new one has", (kind) => {
    const ways = stepForms[kind].fields.flatMap((field) => (field.kind === "exit" ? [field.name] : []));
    expect(ways).toEqual(expect.arrayContaining(stepForms[kind].exits));
  });

  it("falls into parts, in its order, with only the last folded", () => {
    for (const kind of stepKinds) {
      const whole = stepForms[kind].fields,
        parts = partsOf(whole);
      expect(parts.flatMap((part) => part.fields)).toEqual(whole.filter((field) => field.kind !== "part"));
      expect(parts.slice(0, -1).some((part) => part.folds)).toBe(false);
    }
    expect(partsOf(stepForms.digits.fields).map((part) => part.label)).toEqual([
      "What is heard",
      "What is answered",
      "What if it fails",
    ]);
  });

  it("says in a line where a folded way leads", () => {
    const stops = [{ id: "bye", title: "Ends · 2 s", name: "Goodbye", kind: "end" }] as unknown as Parameters<
      typeof wayWords
    >[3];
    expect(wayWords("If declined, leads to", "bye", undefined, stops)).toBe("If declined: Ends: Goodbye");
    expect(wayWords("Without digits leads to", null, undefined, stops)).toBe("Without digits: nowhere yet");
    expect(wayWords("If it is closed leads to", null, "As the queue says", stops)).toBe(
      "If it is closed: as the queue says",
    );
    expect(wayWords("Then leads to", "gone", undefined, stops)).toBe("Then: nowhere");
  });

  it("says how often", () => {
    expect([1, 2, 3].map(often)).toEqual(["once", "twice", "3 times"]);
  });
});

describe("the settings of a queue", () => {
  it("each stand in one group", () => {
    const grouped = groups.flatMap((group) => group.names);
    expect(new Set(grouped).size).toBe(grouped.length);
    expect([...grouped].sort()).toEqual(fields.map((field) => field.name).sort());
  });
});

describe("a whole number that is typed", () => {
  const limits = { least: 1, most: 60, empty: undefined };
  it.each([
    ["1", 1],
    ["60", 60],
    [" 7 ", 7],
    ["0", undefined],
    ["61", undefined],
    ["", undefined],
    ["3.5", undefined],
    ["1e1", undefined],
    ["ten", undefined],
    ["-1", undefined],
  ])("%s", (typed, value) => {
    expect(readWhole(typed, limits)).toBe(value);
  });

  it("may be none where that means something", () => {
    expect(readWhole("", { ...limits, empty: "as the queue has it" })).toBeNull();
  });
});

describe("the product's words", () => {
  it("are read from their page", () => {
    expect(productWords.map((group) => group.title)).toEqual(["The product's own", "The trade's", "What buttons say"]);
    expect(productWords.flatMap((group) => group.words).length).toBeGreaterThan(35);
    expect(productWords[1]?.words.find((one) => one.word === "abandoned")?.means).toBe("hung up while waiting");
  });

  it("leave heads, rules and marks out", () => {
    const page =
      "# Page\ntext\n## Some\n| word | what it is | not |\n|---|---|---|\n| *way*, arm | what *leads* on | |\nmore\n";
    expect(wordsOf(page)).toEqual([{ title: "Some", words: [{ word: "way, arm", means: "what leads on" }] }]);
  });
});

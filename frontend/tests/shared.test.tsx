// @vitest-environment jsdom
import { cleanup, render, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { type ReactNode, useState } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../src/api/client";
import type { ConfigItem, Resource } from "../src/api/resources";
import { DeleteButton } from "../src/areas/shared/DeleteButton";
import type { Field } from "../src/areas/shared/fields";
import { Fold } from "../src/areas/shared/Fold";
import { ItemSheet } from "../src/areas/shared/ItemSheet";
import { NumberBox } from "../src/areas/shared/NumberBox";
import { Failure } from "../src/frame/states";
import { Around } from "./around";

vi.mock("../src/frame/useLive", () => ({ useHeartbeat: () => ({ revision: 7 }) }));

interface Thing extends ConfigItem {
  name: string;
  wait_s: number;
}

const kept: Thing = { id: "t1", revision: 3, name: "Freight", wait_s: 60 };
const fields: Field[] = [
  { kind: "text", name: "name", label: "Name", required: true },
  { kind: "number", name: "wait_s", label: "Wait", unit: "s" },
];

const problem = (status: number, code: string, detail: string, more: object = {}) =>
  new Problem({ status, code, detail, fields: {}, ...more } as ConstructorParameters<typeof Problem>[0]);

function things(changed: Partial<Resource<Thing>> = {}): Resource<Thing> {
  return {
    what: "things",
    csv: "",
    described: false,
    list: () => Promise.resolve({ count: 1, results: [kept] }),
    get: () => Promise.resolve(kept),
    create: (values) => Promise.resolve({ ...kept, ...values }),
    change: (_, values) => Promise.resolve({ ...kept, ...values, revision: 4 }),
    remove: () => Promise.resolve(),
    uses: () => Promise.resolve([]),
    ...changed,
  };
}

const shown = (children: ReactNode) => render(<Around>{children}</Around>);

function sheet(
  resource: Resource<Thing>,
  more: { id?: string; mayChange?: boolean; close?: () => void; created?: () => void } = {},
) {
  return shown(
    <ItemSheet<Thing>
      resource={resource}
      id={more.id ?? "t1"}
      noun="thing"
      titleOf={(one) => one.name}
      fields={fields}
      initial={{ wait_s: 10 }}
      mayChange={more.mayChange ?? true}
      base="/things"
      close={more.close ?? (() => undefined)}
      created={more.created ?? (() => undefined)}
      deletes
    />,
  );
}

afterEach(cleanup);

describe("the form of a kept thing", () => {
  it("saves only what was changed, from the revision that was shown", async () => {
    const change = vi.fn(things().change);
    sheet(things({ change }));
    const user = userEvent.setup();
    const name = await screen.findByLabelText(/^Name/);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Save" }).disabled).toBe(true);
    await user.clear(name);
    await user.type(name, "Cargo");
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect(change).toHaveBeenCalledWith("t1", { name: "Cargo", revision: 3 });
    await screen.findByText("Cargo is saved. It is in effect on the exchange within a second.");
  });

  it("shows the words of a refusal at their field, and keeps what was typed", async () => {
    const refused = problem(400, "not-valid", "Something is wrong.", { fields: { name: ["That name is taken."] } });
    sheet(things({ change: () => Promise.reject(refused) }));
    const user = userEvent.setup();
    const name = await screen.findByLabelText(/^Name/);
    await user.type(name, " 2");
    await user.click(screen.getByRole("button", { name: "Save" }));
    await screen.findByText("That name is taken.");
    expect(screen.getByDisplayValue("Freight 2")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Undo typing" }));
    expect(screen.getByDisplayValue("Freight")).toBeTruthy();
  });

  it("lets one choose field by field where somebody was faster", async () => {
    const theirs = { ...kept, revision: 5, name: "Lorries", wait_s: 90 };
    const stale = problem(409, "stale", "Changed in the meantime.", { by: "Deepa", at: "", current: theirs });
    const change = vi.fn().mockRejectedValueOnce(stale).mockImplementation(things().change);
    sheet(things({ change }));
    const user = userEvent.setup();
    const name = await screen.findByLabelText(/^Name/);
    await user.clear(name);
    await user.type(name, "Cargo");
    const wait = screen.getByLabelText(/^Wait/);
    await user.clear(wait);
    await user.type(wait, "30");
    await user.click(screen.getByRole("button", { name: "Save" }));
    const dialog = await screen.findByRole("dialog");
    expect(within(dialog).getByText("Deepa changed this while you were editing it")).toBeTruthy();
    await user.click(within(dialog).getByLabelText("Lorries"));
    await user.click(within(dialog).getByRole("button", { name: "Go on editing with these" }));
    await waitFor(() => {
      expect(screen.queryByRole("dialog")).toBeNull();
    });
    expect(screen.getByDisplayValue("Lorries")).toBeTruthy();
    expect(screen.getByDisplayValue("30")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Save" }));
    expect(change).toHaveBeenLastCalledWith("t1", { wait_s: 30, revision: 5 });
  });

  it("makes a new one of what it begins with and what was typed", async () => {
    const create = vi.fn(things().create),
      created = vi.fn();
    sheet(things({ create }), { id: "new", created });
    const user = userEvent.setup();
    await user.type(await screen.findByLabelText(/^Name/), "Night line");
    await user.click(screen.getByRole("button", { name: "Create" }));
    expect(create).toHaveBeenCalledWith({ wait_s: 10, name: "Night line" });
    await waitFor(() => {
      expect(created).toHaveBeenCalledWith("t1");
    });
  });

  it("only shows to whom may not change", async () => {
    sheet(things(), { mayChange: false });
    expect((await screen.findByLabelText<HTMLInputElement>(/^Name/)).disabled).toBe(true);
    expect(screen.getByText("Your role lets you look, not change.")).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Save" })).toBeNull();
  });

  it("closes by Escape unless something is typed", async () => {
    const close = vi.fn();
    sheet(things(), { close });
    const user = userEvent.setup();
    const name = await screen.findByLabelText(/^Name/);
    await user.type(name, "x{Escape}");
    expect(close).not.toHaveBeenCalled();
    await user.click(screen.getByRole("button", { name: "Undo typing" }));
    await user.type(name, "{Escape}");
    expect(close).toHaveBeenCalledOnce();
  });

  it("says what it was where it is gone", async () => {
    sheet(things({ get: () => Promise.reject(problem(404, "not-found", "There is no such thing (any more).")) }));
    await screen.findByText("There is no such thing, or not any more");
    expect(screen.getByRole("link", { name: "Those that are there" }).getAttribute("href")).toBe("/things");
  });
});

describe("deleting", () => {
  it("asks first, and is done where nothing uses it", async () => {
    const remove = vi.fn(things().remove),
      gone = vi.fn();
    shown(<DeleteButton resource={things({ remove })} id="t1" name="Freight" gone={gone} />);
    const user = userEvent.setup();
    await user.click(screen.getByRole("button", { name: "Delete…" }));
    await screen.findByText("Nothing uses it. It can be brought back right after.");
    expect(remove).not.toHaveBeenCalled();
    await user.click(screen.getByRole("button", { name: "Delete" }));
    await waitFor(() => {
      expect(gone).toHaveBeenCalledOnce();
    });
    expect(remove).toHaveBeenCalledWith("t1");
    await screen.findByText("Freight is deleted.");
  });

  it("is refused with what uses it", async () => {
    const uses = () =>
      Promise.resolve([{ id: "f", name: "Main line", kind: "flow", how: "flow in force" }]) as ReturnType<
        Resource<Thing>["uses"]
      >;
    shown(<DeleteButton resource={things({ uses })} id="t1" name="Freight" gone={() => undefined} />);
    await userEvent.setup().click(screen.getByRole("button", { name: "Delete…" }));
    await screen.findByText("Freight is in use");
    expect(screen.getByText("Main line")).toBeTruthy();
    expect(screen.queryByRole("button", { name: "Delete" })).toBeNull();
  });
});

function Numbered({ start = 6 }: { start?: number | null }) {
  const [value, setValue] = useState<number | null>(start);
  return (
    <>
      <NumberBox
        label="Waits"
        value={value}
        least={1}
        most={60}
        unit="s"
        empty={start === null ? "as the queue has it" : undefined}
        change={setValue}
      />
      <output>{value === null ? "none" : value}</output>
    </>
  );
}

describe("a number's field", () => {
  it("takes what fits at once, and says what still counts once it is left", async () => {
    shown(<Numbered />);
    const user = userEvent.setup();
    const field = screen.getByLabelText("Waits");
    await user.clear(field);
    await user.type(field, "99");
    expect(screen.getByRole("status").textContent).toBe("9");
    expect(screen.queryByText(/still counts/)).toBeNull();
    await user.tab();
    expect(screen.getByText("A whole number from 1 to 60 is needed; 9 still counts.")).toBeTruthy();
    await user.type(field, "{Backspace}{Backspace}12");
    await user.tab();
    expect(screen.getByRole("status").textContent).toBe("12");
    expect(screen.queryByText(/still counts/)).toBeNull();
  });

  it("may be empty where that means something", async () => {
    shown(<Numbered start={null} />);
    const user = userEvent.setup();
    expect(screen.getByText("as the queue has it")).toBeTruthy();
    await user.type(screen.getByLabelText("Waits"), "5");
    expect(screen.getByRole("status").textContent).toBe("5");
    await user.type(screen.getByLabelText("Waits"), "{Backspace}");
    expect(screen.getByRole("status").textContent).toBe("none");
  });
});

describe("a fold", () => {
  it("says what it holds until it is opened, and stays open where it is needed", async () => {
    const { rerender } = render(
      <Fold title="Rare" holds="Colour: red">
        <input aria-label="Colour" />
      </Fold>,
    );
    const user = userEvent.setup();
    expect(screen.getByText("Colour: red")).toBeTruthy();
    expect(screen.queryByLabelText("Colour")).toBeNull();
    await user.click(screen.getByRole("button", { name: "Rare" }));
    expect(screen.getByLabelText("Colour")).toBeTruthy();
    await user.click(screen.getByRole("button", { name: "Rare" }));
    expect(screen.queryByLabelText("Colour")).toBeNull();
    rerender(
      <Fold title="Rare" holds="Colour: red" needed>
        <input aria-label="Colour" />
      </Fold>,
    );
    expect(screen.getByLabelText("Colour")).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Rare" }).disabled).toBe(true);
  });
});

describe("what could not be had", () => {
  it("is said, with another try", async () => {
    const retry = vi.fn();
    shown(
      <Failure
        error={problem(503, "database-away", "The database does not answer.")}
        retry={retry}
        of={{ noun: "queue", list: "/wait/queues" }}
      />,
    );
    expect(screen.getByRole("alert").textContent).toContain("The database does not answer.");
    await userEvent.setup().click(screen.getByRole("button", { name: "Try again" }));
    expect(retry).toHaveBeenCalledOnce();
  });
});

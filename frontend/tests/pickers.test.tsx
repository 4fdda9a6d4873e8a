// @vitest-environment jsdom
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { type ReactNode, useState } from "react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../src/api/client";
import type { ConfigItem, Resource } from "../src/api/resources";
import { ThingPicker, ThingsPicker } from "../src/areas/shared/ThingPicker";
import { Around } from "./around";

const session = { may: true };
vi.mock("../src/frame/session", () => ({ useSession: () => ({ may: () => session.may }) }));

interface Box extends ConfigItem {
  name: string;
}

const kept: Box[] = ["Bookings", "Freight", "Night line"].map((name, n) => ({ id: `b${n}`, name, revision: 1 }));

/** Boxes as the server finds them: by words, or by their ids. */
function boxes(changed: Partial<Resource<Box>> = {}): Resource<Box> {
  const list = vi.fn((query: Record<string, unknown> = {}) => {
    const { search, ids } = query as { search?: string; ids?: string };
    const all = ids === undefined ? kept : kept.filter((box) => ids.split(",").includes(box.id));
    const results = all.filter((box) => box.name.toLowerCase().includes((search ?? "").toLowerCase()));
    return Promise.resolve({ count: results.length, results });
  });
  return {
    what: "boxes",
    csv: "",
    described: false,
    begins: { noun: "box", area: "boxes", values: { longest_s: 120 } },
    list,
    get: () => Promise.resolve(kept[0] as Box),
    create: (values) => Promise.resolve({ id: "new", revision: 1, name: String(values.name) }),
    change: () => Promise.reject(new Error("nothing is changed here")),
    remove: () => Promise.resolve(),
    uses: () => Promise.resolve([]),
    ...changed,
  };
}

const shown = (children: ReactNode) => render(<Around>{children}</Around>);

/** A picker of one box, and what is chosen beside it. */
function OneBox({ resource, first = null }: { resource: Resource<Box>; first?: string | null }) {
  const [value, choose] = useState<string | null>(first);
  return (
    <>
      <ThingPicker
        resource={resource}
        nameOf={(box) => box.name}
        disabled={false}
        field={{ label: "Mailbox" }}
        value={value}
        choose={choose}
        creates
      />
      <output>{value ?? "none"}</output>
    </>
  );
}

const field = () => screen.findByRole("combobox", { name: "Mailbox" });
const offered = () => screen.queryAllByRole("option").map((option) => option.textContent);
const chosen = () => screen.getByRole("status").textContent;

afterEach(() => {
  cleanup();
  session.may = true;
});

describe("choosing one thing", () => {
  it("finds by what is typed, and takes what is clicked", async () => {
    shown(<OneBox resource={boxes()} />);
    const user = userEvent.setup();
    await user.type(await field(), "fre");
    await waitFor(() => expect(offered()).toEqual(["Freight", "Create box “fre”"]));
    await user.click(screen.getByRole("option", { name: "Freight" }));
    expect(chosen()).toBe("b1");
    await user.clear(await field());
    await waitFor(() => expect(chosen()).toBe("none"));
  });

  it("names what is chosen though it is not among the first that were found", async () => {
    const far = boxes({
      list: (query) =>
        Promise.resolve(
          query && "ids" in query ? { count: 1, results: [kept[2] as Box] } : { count: 99, results: [kept[0] as Box] },
        ),
    });
    shown(<OneBox resource={far} first="b2" />);
    await waitFor(async () => expect((await field()).getAttribute("value")).toBe("Night line"));
  });

  it("makes one by its name, with what such a thing begins with, and takes it", async () => {
    const create = vi.fn(boxes().create);
    shown(<OneBox resource={boxes({ create })} />);
    const user = userEvent.setup();
    await user.type(await field(), "  Lost property ");
    await user.click(await screen.findByRole("option", { name: "Create box “Lost property”" }));
    await waitFor(() => expect(chosen()).toBe("new"));
    expect(create).toHaveBeenCalledWith({ longest_s: 120, name: "Lost property" });
    await screen.findByText("The box “Lost property” has a name. Set it up when you like.");
  });

  it("offers to make none that is there, nor to whom may not", async () => {
    shown(<OneBox resource={boxes()} />);
    const user = userEvent.setup();
    await user.type(await field(), "BOOKINGS");
    await waitFor(() => expect(offered()).toEqual(["Bookings"]));
    session.may = false;
    await user.clear(await field());
    await user.type(await field(), "Quay");
    await waitFor(() => expect(offered()).toEqual([]));
  });

  it("says why one could not be made, and chooses nothing", async () => {
    const refused = new Problem({ status: 400, code: "not-valid", detail: "That name is taken.", fields: {} });
    shown(<OneBox resource={boxes({ create: () => Promise.reject(refused) })} />);
    const user = userEvent.setup();
    await user.type(await field(), "Quay");
    await user.click(await screen.findByRole("option", { name: "Create box “Quay”" }));
    await screen.findByText("That name is taken.");
    expect(chosen()).toBe("none");
  });
});

describe("choosing many things", () => {
  it("stays open, and takes and gives back one after another", async () => {
    const choose = vi.fn<(ids: string[]) => void>();
    function Many() {
      const [value, set] = useState(["b0"]);
      const take = (ids: string[]) => {
        choose(ids);
        set(ids);
      };
      return (
        <ThingsPicker
          resource={boxes()}
          nameOf={(box) => box.name}
          disabled={false}
          field={{ label: "Mailbox" }}
          value={value}
          choose={take}
        />
      );
    }
    shown(<Many />);
    const user = userEvent.setup();
    await screen.findByText("Bookings");
    await user.click(await field());
    await user.click(await screen.findByRole("option", { name: "Freight" }));
    await user.click(await screen.findByRole("option", { name: "Night line" }));
    await user.click(await screen.findByRole("option", { name: "Bookings" }));
    expect(choose.mock.calls.map(([ids]) => ids)).toEqual([
      ["b0", "b1"],
      ["b0", "b1", "b2"],
      ["b1", "b2"],
    ]);
  });
});

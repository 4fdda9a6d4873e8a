/** What the live topic `floor` carries, by short names. */

import type { Schemas, Topics } from "../../api/client";

export type Floor = Topics["floor"];
export type Bead = Schemas["LiveBead"];
export type FloorQueue = Schemas["LiveFloorQueue"];
export type FloorAgent = Schemas["LiveFloorAgent"];
export type Span = Schemas["LiveSpan"];
export type Centre = Schemas["LiveCentre"];
export type Group = Schemas["LiveGroup"];
export type Counts = Schemas["LiveCounts"];
/** States by when they began (ms), oldest first. */
export type Hour = Span["states"];
export type Need = FloorAgent["needs"][number];

export const inHand = new Set(["ringing", "on_contact", "wrapping"]);
export const doings: Record<FloorAgent["doing"], string> = {
  "": "",
  talking: "",
  holding: "on hold",
  consulting: "consulting",
  conference: "with a colleague",
  asked: "asked by a colleague",
};

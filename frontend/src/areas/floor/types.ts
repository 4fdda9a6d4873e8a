/** What the live topic `floor` carries, by short names. */

import type { Schemas } from "../../api/client";

export type Bead = Schemas["LiveBead"];
export type FloorQueue = Schemas["LiveFloorQueue"];
export type FloorAgent = Schemas["LiveFloorAgent"];
export type Span = Schemas["LiveSpan"];
export type Centre = Schemas["LiveCentre"];
/** States by when they began (ms), oldest first. */
export type Hour = Span["states"];

/** What the live topic `floor` carries. */

export interface QueueFigures {
  offered: number;
  answered: number;
  abandoned: number;
  left_otherwise: number;
  under_way: number;
  short_abandons: number;
  answered_late: number;
  abandoned_late: number;
  average_wait_ms: number | null;
  longest_answered_ms: number;
  longest_abandoned_ms: number;
  service_level: number | null;
}

export interface Bead {
  contact: string;
  entered_ms: number;
  caller: string;
  ringing: string;
}

interface Counts {
  signed_in: number;
  available: number;
  ringing: number;
  on_contact: number;
  wrapping: number;
  away: number;
}

export interface FloorQueue extends Counts {
  name: string;
  colour: string;
  threshold_s: number;
  goal_percent: number;
  formula: "A" | "B" | "C" | "D";
  waiting: Bead[];
  first_entered_ms: number | null;
  callbacks: number;
  expected: ExpectedWait | null;
  figures: QueueFigures;
}

/** The wait of a caller who came now (s), and how each estimator did on those who were answered. */
export interface ExpectedWait {
  seconds: number | null;
  told: boolean;
  best: string;
  scores: Record<string, { scored: number; within: number; error_s: number | null; bias_s: number | null }>;
}

export interface FloorAgent {
  name: string;
  team: string;
  extension: string;
  status: string;
  reason: string;
  since_ms: number;
  due_ms: number | null;
  caller: string;
  queue: string;
  hour: [number, string][];
  doing: "" | "talking" | "holding" | "consulting" | "conference" | "asked";
  /** How many texts at once; 0 for one contact or none. */
  texts: number;
  staff_number: string;
  emergency: boolean;
}

export interface Centre extends Counts {
  known: number;
  waiting: number;
  first_entered_ms: number | null;
  figures: QueueFigures;
}

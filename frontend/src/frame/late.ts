/** Whether somebody has waited too long by now: the exchange says from when on that is. */
export const isLate = (wait: { late_from_ms: number }, now: number) => now >= wait.late_from_ms;

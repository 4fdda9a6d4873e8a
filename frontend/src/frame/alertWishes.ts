/** How this browser tells of an alert: by a sound, by a notification of the system, or by the banner only. */
export type Wish = "sound" | "notification";
const KEY = "hazeridge-alerts";

export function wishes(): Record<Wish, boolean> {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Record<Wish, boolean>>;
    return { sound: kept.sound === true, notification: kept.notification === true };
  } catch {
    return { sound: false, notification: false };
  }
}

/** Keep a wish; a notification needs the browser's own permission first. */
export async function wish(what: Wish, on: boolean): Promise<boolean> {
  if (
    what === "notification" &&
    on &&
    (!("Notification" in window) || (await Notification.requestPermission()) !== "granted")
  )
    return false;
  localStorage.setItem(KEY, JSON.stringify({ ...wishes(), [what]: on }));
  return true;
}

/** The few tones that a telephone makes itself. */

let context: AudioContext | null = null;

function tone(pitch: number, from: number, length: number, level = 0.06): void {
  context ??= new AudioContext();
  const sound = context.createOscillator();
  const gain = context.createGain();
  sound.frequency.value = pitch;
  gain.gain.value = level;
  sound.connect(gain).connect(context.destination);
  sound.start(context.currentTime + from);
  sound.stop(context.currentTime + from + length);
}

/** Two soft rings. */
export function ringTone(): void {
  for (const at of [0, 0.5]) {
    tone(523, at, 0.35);
    tone(659, at, 0.35, 0.04);
  }
}

/** Somebody is in need: three high steps, which no telephone makes. */
export function alarmTone(): void {
  [784, 988, 1175].forEach((pitch, at) => {
    tone(pitch, at * 0.16, 0.15, 0.09);
  });
}

/** A person has answered. */
export function connectTone(): void {
  tone(660, 0, 0.12);
  tone(880, 0.14, 0.16);
}

/** The line has gone dead. */
export function endTone(): void {
  for (const at of [0, 0.4, 0.8]) tone(420, at, 0.2);
}

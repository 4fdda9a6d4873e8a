/** The microphone: samples in, a WAV file out. What is silence, and how loud it is, the server says. */
import worklet from "./capture.worklet.js?url&no-inline";

export interface Recording {
  /** The highest sample since it was last asked, 0..1. */
  level: () => number;
  seconds: () => number;
  finish: () => File;
  cancel: () => void;
}

/** Why a microphone cannot be had, in words for the person who asked. */
export function microphoneWords(error: unknown): string {
  const name = error instanceof DOMException ? error.name : "";
  if (name === "NotAllowedError")
    return "The browser was not allowed to use the microphone. Allow it beside the address, and try again.";
  if (name === "NotFoundError") return "This computer has no microphone that the browser can see.";
  return "The microphone could not be used. Is another program using it?";
}

/** 16-bit mono WAV of samples between -1 and 1. */
function wav(blocks: Float32Array[], rate: number): File {
  const count = blocks.reduce((sum, block) => sum + block.length, 0);
  const view = new DataView(new ArrayBuffer(44 + 2 * count));
  const text = (at: number, words: string) => {
    [...words].forEach((letter, i) => {
      view.setUint8(at + i, letter.charCodeAt(0));
    });
  };
  text(0, "RIFF");
  view.setUint32(4, 36 + 2 * count, true);
  text(8, "WAVEfmt ");
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, 1, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, 2 * rate, true);
  view.setUint16(32, 2, true);
  view.setUint16(34, 16, true);
  text(36, "data");
  view.setUint32(40, 2 * count, true);
  let at = 44;
  for (const block of blocks)
    for (const sample of block) {
      view.setInt16(at, Math.max(-1, Math.min(1, sample)) * 0x7fff, true);
      at += 2;
    }
  return new File([view], "recording.wav", { type: "audio/wav" });
}

/** Begin to record; the browser asks the user first. */
export async function record(): Promise<Recording> {
  const stream = await navigator.mediaDevices.getUserMedia({
    audio: { echoCancellation: false, autoGainControl: false },
  });
  const context = new AudioContext();
  try {
    await context.audioWorklet.addModule(worklet);
  } catch (error) {
    stream.getTracks().forEach((track) => {
      track.stop();
    });
    throw error;
  }
  const blocks: Float32Array[] = [];
  let top = 0;
  const capture = new AudioWorkletNode(context, "capture");
  capture.port.onmessage = ({ data }: MessageEvent<Float32Array>) => {
    blocks.push(data);
    for (const sample of data) top = Math.max(top, Math.abs(sample));
  };
  context.createMediaStreamSource(stream).connect(capture);
  const stop = () => {
    stream.getTracks().forEach((track) => {
      track.stop();
    });
    void context.close();
  };
  return {
    level: () => {
      const seen = top;
      top = 0;
      return seen;
    },
    seconds: () => blocks.reduce((sum, block) => sum + block.length, 0) / context.sampleRate,
    finish: () => {
      stop();
      return wav(blocks, context.sampleRate);
    },
    cancel: stop,
  };
}

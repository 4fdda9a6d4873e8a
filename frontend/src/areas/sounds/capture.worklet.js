/* global AudioWorkletProcessor, registerProcessor -- the names that a worklet is given */
/* Hands every block of the microphone's samples to the page. */
class Capture extends AudioWorkletProcessor {
  process(inputs) {
    const block = inputs[0][0];
    if (block) this.port.postMessage(block.slice());
    return true;
  }
}
registerProcessor("capture", Capture);

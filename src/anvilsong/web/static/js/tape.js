// Records the arc in the page: plain samples, put as a WAV file into the form, which is sent as any other file is.
const MOST_S = 60;
const box = document.getElementById("recorder");
const button = document.getElementById("record");
const level = document.getElementById("level");
const told = document.getElementById("recorded");
const field = document.getElementById("file");
const can = Boolean(navigator.mediaDevices?.getUserMedia && window.AudioWorkletNode);
box.hidden = !can;
document.getElementById("no-recorder").hidden = can;

let tape = null; // the recording that runs

// Sixteen bits, one channel: a header of 44 bytes, then the samples.
function asWave(chunks, rate) {
  const count = chunks.reduce((sum, chunk) => sum + chunk.length, 0);
  const view = new DataView(new ArrayBuffer(44 + 2 * count));
  const text = (at, letters) => [...letters].forEach((letter, n) => view.setUint8(at + n, letter.charCodeAt(0)));
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
  for (const chunk of chunks)
    for (const sample of chunk) {
      view.setInt16(at, Math.round(32767 * Math.max(-1, Math.min(1, sample))), true);
      at += 2;
    }
  return new File([view], "recorded.wav", { type: "audio/wav" });
}

async function start() {
  told.textContent = "";
  let stream;
  try {
    // What a call needs would spoil it: the arc is taken for noise.
    stream = await navigator.mediaDevices.getUserMedia({
      audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false, channelCount: 1 },
    });
  } catch {
    told.textContent = "No microphone: allow it in the browser, or send a file.";
    return;
  }
  const context = new AudioContext();
  await context.audioWorklet.addModule(new URL("./tape_ear.js", import.meta.url));
  const ear = new AudioWorkletNode(context, "tape-ear");
  tape = { stream, context, chunks: [], count: 0 };
  ear.port.onmessage = ({ data }) => {
    if (!tape) return;
    tape.chunks.push(data);
    tape.count += data.length;
    let most = 0;
    for (const sample of data) most = Math.max(most, Math.abs(sample));
    level.value = most;
    told.textContent = `${(tape.count / context.sampleRate).toFixed(1)} s${most > 0.98 ? ", too loud: further off" : ""}`;
    if (tape.count > MOST_S * context.sampleRate) stop();
  };
  context.createMediaStreamSource(stream).connect(ear);
  button.textContent = "Stop";
}

function stop() {
  const { stream, context, chunks, count } = tape;
  tape = null;
  for (const track of stream.getTracks()) track.stop();
  context.close();
  level.value = 0;
  button.textContent = "Record here";
  const files = new DataTransfer();
  files.items.add(asWave(chunks, context.sampleRate));
  field.files = files.files;
  told.textContent = `${(count / context.sampleRate).toFixed(1)} s recorded. Now ask what is heard.`;
}

button.addEventListener("click", () => (tape ? stop() : start()));

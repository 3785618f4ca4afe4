// This device as the pedal of a run that another one shows.
import { hold } from "./pedal_hand.js";

const { token, moves } = document.getElementById("hand-only").dataset;
const url = new URL(`/practice/live/hand?run=${token}`, location.href);
url.protocol = location.protocol === "https:" ? "wss:" : "ws:";
const socket = new WebSocket(url.href);
hold({
  moves,
  canvas: null,
  send: (message) => socket.readyState === WebSocket.OPEN && socket.send(JSON.stringify(message)),
});
socket.addEventListener("close", () => {
  document.getElementById("run-said").textContent = "The run is over, or this device lost it.";
  for (const input of document.querySelectorAll("#hand-only input")) input.disabled = true;
});

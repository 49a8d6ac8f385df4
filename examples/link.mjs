// A game that talks to an open plan: it hears of changes, builds a spring house, and takes it back.
//
//     woven-locus serve valley.plan.json > link.json &
//     node --experimental-websocket examples/link.mjs link.json
//
// From Node 22 on without the option; a browser has WebSocket, too. Says the same as link.py.

import { readFileSync } from "node:fs";

const { url, token } = JSON.parse(readFileSync(process.argv[2], "utf8"));
const server = new WebSocket(`${url}?token=${token}`);
const waiting = new Map();
let asked = 0;

server.onmessage = ({ data }) => {
  const answer = JSON.parse(data);
  if (answer.method === "changed") {
    const { revision, label, boxes } = answer.params;
    console.log(`revision ${revision}: ${label}, boxes ${JSON.stringify(boxes).replaceAll(",", ", ")}`);
  } else {
    waiting.get(answer.id)(answer);
  }
};

/** The result of a method. */
function ask(method, params = {}) {
  asked += 1;
  server.send(JSON.stringify({ jsonrpc: "2.0", id: asked, method, params }));
  return new Promise((resolve) => waiting.set(asked, resolve));
}

await new Promise((resolve, reject) => {
  server.onopen = resolve;
  server.onerror = () => reject(new Error(`nobody listens at ${url}`));
});
const summary = (await ask("plan.summary")).result;
console.log(`${summary.name}: ${summary.structures} structures`);
await ask("subscribe", { to: "changes" });
const cell = [8, 18];
const verdict = (await ask("probe", { kind: "spring-house", cell })).result;
console.log(verdict.ok ? "may stand there" : verdict.words);
const placed = await ask("place", { kind: "spring-house", cell });
console.log(placed.result?.structure ?? placed.error.message);
console.log((await ask("probe", { kind: "spring-house", cell })).result.words);
await ask("undo");
console.log(`${(await ask("plan.summary")).result.structures} structures`);
server.close();

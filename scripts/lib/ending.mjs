// Ends in order, whatever ends this process.

/** What has to be ended when this process ends, however it does. */
export const leftovers = new Set();

process.on('exit', () => {
  for (const end of leftovers) end();
});

const SIGNALS = [
  ['SIGINT', 130],
  ['SIGTERM', 143],
  ['SIGHUP', 129],
];

let ending;

for (const [signal, code] of SIGNALS) process.on(signal, () => (ending ? ending() : process.exit(code)));

/** From now on a signal runs this instead of ending the process at once. */
export function endOrderly(run) {
  ending = run;
}

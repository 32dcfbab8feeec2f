/** Makes a process ready to run tests from their sources. */
import { register } from 'node:module';
import { setImmediate } from 'node:timers';

register('./typescript.mjs', import.meta.url);

/*
 * The runner (jest-light-runner 0.7) tells all of its processes what they are to know when the first of them asks. One that has not
 * asked by then does not listen yet, and waited for ever: what it was told is kept until it asks.
 */
const [ASKED, TOLD] = ['jest-light-runner-get-worker-data', 'jest-light-runner-worker-data'];
if (process.send && process.env.TINYPOOL_WORKER_ID !== undefined) {
  let told;
  const { on } = process;
  const send = process.send.bind(process);
  // not before somebody else listens: a process reads nothing until then, and what it reads it forgets
  process.on = function listen(event, listener) {
    on.call(this, event, listener);
    if (event === 'message') {
      process.on = on;
      on.call(this, event, (message) => {
        if (message?.type === TOLD) told = message;
      });
    }
    return this;
  };
  process.send = (message, ...rest) => {
    if (message !== ASKED || told === undefined) return send(message, ...rest);
    setImmediate(() => process.emit('message', told));
    return true;
  };
}

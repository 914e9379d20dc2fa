import { performAll } from '/work/main/demo/world';
console.time('perform'); performAll(); console.timeEnd('perform');

import vm from 'node:vm';
import { TestEnvironment } from 'jest-environment-node';

/**
 * Jest's environment for Node with an ordinary global object. Its own one answers every look at `Math` or
 * `Float32Array` through a proxy, which makes the core four to six times slower than it is anywhere else.
 * Where Node is too old to have the constant (before 20.18) a plain sandbox takes its place.
 */
export default class QuickNode extends TestEnvironment {
  constructor(config, context) {
    const { createContext } = vm;
    vm.createContext = () => createContext(vm.constants?.DONT_CONTEXTIFY);
    try {
      super(config, context);
    } finally {
      vm.createContext = createContext;
    }
  }
}

const vm = require('node:vm');
const { TestEnvironment } = require('jest-environment-node');

/**
 * Jest's environment for Node, but with an ordinary global object. A sandbox made from an object is asked for every
 * global that code looks up (`Math`, `Float64Array`, …), which makes loops over samples ten times slower.
 */
module.exports = class extends TestEnvironment {
  constructor(...args) {
    const { createContext } = vm;
    vm.createContext = () => createContext(vm.constants.DONT_CONTEXTIFY);
    try {
      super(...args);
    } finally {
      vm.createContext = createContext;
    }
  }
};

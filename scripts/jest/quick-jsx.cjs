// Elements as the finished application makes them: while developing, React notes a stack of calls for each of them.
module.exports = require('../../node_modules/react/cjs/react-jsx-runtime.production.js');

/** Where a bundler would put a worker. */
export default 'worker.js';

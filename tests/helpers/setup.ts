import fc from 'fast-check';

// A gate judges the change it is given: there the draws are the same each time. Everywhere else they are new, and find what nobody thought of.
if (process.env.CI) fc.configureGlobal({ seed: 20_261 });

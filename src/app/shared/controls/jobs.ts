import { jobs } from '@core/scene';

const names = {
  commercial: 'in a commercial job',
  unpaid: 'in an unpaid job',
  'shared alike': 'in a work that is shared alike',
};

/** What a mix may be made for, as options of a select. */
export const jobNames = jobs.map((value) => ({ value, label: names[value], title: names[value] }));

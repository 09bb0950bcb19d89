/** A stand-in for a running workstation that sounds are sent to. */
export { SessionHost, type HostOptions } from './service';
export { HostFolder } from './store';

/** Starts counting this process's work, in milliseconds of a core: what others make it wait for is not its own. */
export function cpuClock(): () => number {
  const from = process.cpuUsage();
  return () => {
    const { user, system } = process.cpuUsage(from);
    return (user + system) / 1000;
  };
}

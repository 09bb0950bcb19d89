/** Makes a thing once per key: tables of sines cost more than many a short sound takes to measure. */
export function onceEach<K, V>(make: (key: K) => V): (key: K) => V {
  const made = new Map<K, V>();
  return (key) => {
    let value = made.get(key);
    if (value === undefined) made.set(key, (value = make(key)));
    return value;
  };
}

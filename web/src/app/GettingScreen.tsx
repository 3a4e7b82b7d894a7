import { useEffect, useState } from "react";

const LONG_MS = 5000;

/** While a screen's code is on its way. Without a network that lasts until there is one. */
export function GettingScreen() {
  const [isLong, setLong] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLong(true), LONG_MS);
    return () => clearTimeout(timer);
  }, []);
  return (
    <div className="screen soft" role="status">
      <p>Getting this screen …</p>
      {isLong && <p>This takes long: the network may be weak or gone. It is tried again by itself, and what the server has acknowledged is safe.</p>}
    </div>
  );
}

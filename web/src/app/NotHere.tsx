import { Link } from "react-router";
import { Masthead } from "../shared/ui/Masthead";

export function NotHere() {
  return (
    <div className="screen">
      <Masthead help="folios" title="" />
      <main>
        <h1>There is nothing at this address</h1>
        <p>
          <Link to="/">Go to my work</Link>
        </p>
      </main>
    </div>
  );
}

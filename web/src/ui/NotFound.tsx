import { Link } from "react-router";

import { Header } from "./Header";

export function NotFound() {
  return (
    <div className="flex h-full flex-col">
      <Header />
      <main className="m-auto max-w-md text-center font-read text-read">
        <h1 className="mb-3 text-head font-semibold">There is nothing at this address</h1>
        <Link to="/shelf" className="link">
          Back to the shelf
        </Link>
      </main>
    </div>
  );
}

import Link from 'next/link';

export default function NotFound() {
  return (
    <main className="mx-auto max-w-md pt-32 text-center">
      <h1 className="text-xl font-semibold">There is nothing at this address.</h1>
      <p className="text-soft mt-2">The project may have been in another data folder.</p>
      <Link href="/" className="text-petrol mt-4 inline-block underline">
        Back to the projects
      </Link>
    </main>
  );
}

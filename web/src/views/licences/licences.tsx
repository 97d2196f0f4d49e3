import { useQuery } from "@tanstack/react-query";
import styled from "styled-components";
import { Notice } from "../../parts/notice";
import { ink, phone } from "../../theme/theme";

type Package = { name: string; version: string; licence: string; text: string };

const Main = styled.main`
  display: grid;
  gap: 1rem;
  align-content: start;
  padding: 1.75rem 1.5rem 3rem;
  max-width: 56rem;
  details {
    border-top: 1px solid ${ink.line};
  }
  summary {
    min-height: 44px;
    display: list-item;
    padding: 0.6rem 0;
  }
  pre {
    white-space: pre-wrap;
    font-size: 0.875rem;
    padding-bottom: 1rem;
  }
  ${phone} {
    padding: 1.25rem 1rem 2rem;
  }
`;

async function fetched(): Promise<Package[]> {
  const reply = await fetch("/licences.json");
  if (!reply.ok) throw new Error("The licences are not part of this build.");
  return reply.json();
}

/** What others have made that this page is built of, and on which terms. */
export function Licences() {
  const packages = useQuery({ queryKey: ["licences"], queryFn: fetched, retry: false });
  return (
    <Main>
      <h1>Licences</h1>
      <p>This page is built of these packages and this typeface.</p>
      {packages.error ? <Notice>{packages.error.message}</Notice> : null}
      <div>
        {(packages.data ?? []).map((one) => (
          <details key={`${one.name} ${one.version}`}>
            <summary>
              {one.name} {one.version}, {one.licence}
            </summary>
            <pre>{one.text}</pre>
          </details>
        ))}
      </div>
    </Main>
  );
}

import { useQuery } from "@tanstack/react-query";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Notice } from "../../parts/notice";
import { ink, phone } from "../../theme/theme";
import { PARTS } from "./reasons";

const Main = styled.main`
  padding: 1.75rem 1.5rem 3rem;
  display: grid;
  gap: 1.5rem;
  align-content: start;
  max-width: 60rem;
  width: 100%;
  margin: 0 auto;
  ol {
    list-style: decimal;
    padding-left: 1.4rem;
    columns: 2;
    ${phone} {
      columns: 1;
    }
  }
  ol li {
    padding: 0.25rem 0;
  }
  ${phone} {
    padding: 1.25rem 1rem 2rem;
  }
`;
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  caption {
    text-align: left;
    font-size: 1.125rem;
    font-weight: 650;
    padding-bottom: 0.5rem;
  }
  th,
  td {
    text-align: left;
    vertical-align: top;
    padding: 0.5rem 1rem 0.5rem 0;
    border-bottom: 1px solid ${ink.line};
  }
  thead th {
    color: ${ink.quiet};
    font-weight: 600;
    font-size: 0.9375rem;
  }
`;

/** How the score works: the parts and their points, the levels of exactness, the ten rules. */
export function RubricView() {
  const rubric = useQuery({ queryKey: ["rubric"], queryFn: () => said(api.GET("/api/rubric")) });
  if (!rubric.data) {
    return (
      <Main>
        {rubric.error ? <Notice>{rubric.error.message}</Notice> : <p role="status">Fetching …</p>}
      </Main>
    );
  }
  const { parts, tolerances, rules } = rubric.data;
  return (
    <Main>
      <h1>How the score works</h1>
      <p>
        Every point is given or withheld in a sentence of its own. What an exercise does not ask for
        is left out, and the rest is scaled to 100. How you arrived counts only on strings that
        arrived, so doing nothing, or turning by chance, brings next to nothing.
      </p>
      <Table>
        <caption>The parts</caption>
        <thead>
          <tr>
            <th scope="col">Part</th>
            <th scope="col">Points</th>
            <th scope="col">What it looks at</th>
          </tr>
        </thead>
        <tbody>
          {parts.map(({ part, points }) => (
            <tr key={part}>
              <th scope="row">{PARTS[part].title}</th>
              <td>{points}</td>
              <td>{PARTS[part].about}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      <Table>
        <caption>How exact, in cents</caption>
        <thead>
          <tr>
            <th scope="col">Level</th>
            <th scope="col">Full points within</th>
            <th scope="col">None from</th>
            <th scope="col">Passes for still</th>
          </tr>
        </thead>
        <tbody>
          {tolerances.map((one) => (
            <tr key={one.id}>
              <th scope="row">{one.name}</th>
              <td>{one.full_cents}</td>
              <td>{one.nothing_cents}</td>
              <td>{one.still_cents}</td>
            </tr>
          ))}
        </tbody>
      </Table>
      <section>
        <h2>The ten rules</h2>
        <ol>
          {rules.map((rule) => (
            <li key={rule}>{rule}</li>
          ))}
        </ol>
      </section>
    </Main>
  );
}

import { useQuery } from "@tanstack/react-query";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Notice } from "../../parts/notice";
import { phone } from "../../theme/theme";
import { PARTS } from "./reasons";
import { Terms } from "../../parts/terms";
import { Table } from "../../parts/layout";

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
const Tops = styled(Table)`
  th,
  td {
    vertical-align: top;
  }
`;

/** How the score works: the parts and their points, the levels of exactness, the rules of turning. */
export function RubricView() {
  const rubric = useQuery({ queryKey: ["rubric"], queryFn: () => said(api.GET("/api/rubric")) });
  if (!rubric.data) {
    return (
      <Main>
        {rubric.error ? <Notice>{rubric.error.message}</Notice> : <p role="status">Fetching …</p>}
      </Main>
    );
  }
  const { parts, tolerances, rules, most } = rubric.data;
  return (
    <Main>
      <h1>How the score works</h1>
      <p>
        Every point has a sentence that says why. What an exercise does not ask for is left out, and
        the rest is scaled to 100. Help that shows the answer lowers the best total: with Ripples on
        every string it is {100 - (most.ripples ?? 0)}, with Level or Tuner{" "}
        {100 - (most.knowing ?? 0)}. A wrong note or a wrong octave leaves {most.wrong_note} at
        most.
      </p>
      <Tops>
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
              <td>
                <Terms text={PARTS[part].about} />
              </td>
            </tr>
          ))}
        </tbody>
      </Tops>
      <Tops>
        <caption>Tolerances, in cents</caption>
        <thead>
          <tr>
            <th scope="col">Tolerance</th>
            <th scope="col">Earns all within</th>
            <th scope="col">Earns nothing from</th>
            <th scope="col">Counts as in tune</th>
          </tr>
        </thead>
        <tbody>
          {tolerances.map((one) => (
            <tr key={one.id}>
              <th scope="row">{one.name}</th>
              <td>{one.full_cents}</td>
              <td>{one.nothing_cents}</td>
              <td>{one.in_tune_cents}</td>
            </tr>
          ))}
        </tbody>
      </Tops>
      <section>
        <h2>The rules of turning</h2>
        <ol>
          {rules.map((rule) => (
            <li key={rule}>{rule}</li>
          ))}
        </ol>
      </section>
    </Main>
  );
}

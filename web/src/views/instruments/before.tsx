import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useOutletContext } from "react-router";
import styled from "styled-components";
import { api, said } from "../../api/client";
import { Button } from "../../parts/button";
import { Notice } from "../../parts/notice";
import { ink, phone, tablet } from "../../theme/theme";
import { capital } from "../../words/formats";
import { HeardInstrument } from "../../today/first-sounds";
import type { Prepared } from "./prepared";
import { naming } from "../../words/notes";

const Card = styled.article`
  display: grid;
  gap: 1.25rem;
  max-width: 76rem;
  --under: ${ink.paper};
  @media print {
    font-size: 0.9375rem;
    gap: 0.75rem;
    [data-screen] {
      display: none;
    }
  }
`;
const Head = styled.div`
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 0.5rem 1.5rem;
`;
const Two = styled.div`
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 1.25rem 3rem;
  align-items: start;
  ${tablet} {
    grid-template-columns: minmax(0, 1fr);
  }
`;
const Parts = styled.ol`
  columns: 2 22rem;
  column-gap: 3rem;
  li {
    break-inside: avoid;
    padding-bottom: 1rem;
  }
  p + p {
    margin-top: 0.15rem;
  }
  h2 {
    margin-bottom: 0.2rem;
  }
`;
const Table = styled.table`
  width: 100%;
  border-collapse: collapse;
  th,
  td {
    text-align: left;
    padding: 0.3rem 0.75rem 0.3rem 0;
    border-bottom: 1px solid ${ink.line};
    vertical-align: top;
  }
  thead th {
    color: ${ink.quiet};
    font-weight: 600;
    font-size: 0.9375rem;
  }
  ${phone} {
    font-size: 0.9375rem;
    th,
    td {
      padding-right: 0.4rem;
    }
  }
`;
const Quiet = styled.p`
  color: ${ink.quiet};
`;

/** What to know before the first turn, for this instrument; it prints as one card. */
export function Before() {
  const { asked, instrument } = useOutletContext<Prepared>();
  const query = {
    instrument: instrument.id,
    tuning: asked.notes || asked.tuning || "standard",
    naming: naming(),
  };
  const page = useQuery({
    queryKey: ["before", query],
    queryFn: () => said(api.GET("/api/before", { params: { query } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (page.error) return <Notice>{page.error.message}</Notice>;
  if (!page.data) return <p role="status">Fetching …</p>;
  return (
    <Card>
      <Head>
        <h1>{page.data.title}</h1>
        <Button data-screen onPress={() => print()}>
          Print this card
        </Button>
      </Head>
      <Two>
        <div data-screen>
          <HeardInstrument key={instrument.id} instrument={instrument.id} />
        </div>
        <Table>
          <thead>
            <tr>
              <th scope="col">Number</th>
              <th scope="col">String</th>
              <th scope="col">Its peg</th>
              <th scope="col">Tightens</th>
            </tr>
          </thead>
          <tbody>
            {page.data.strings.map((one) => (
              <tr key={one.number}>
                <td>{one.written}</td>
                <th scope="row">
                  {capital(one.label)} <Quiet as="span">{one.note}</Quiet>
                </th>
                <td>{one.where}</td>
                <td>{one.tightens}</td>
              </tr>
            ))}
          </tbody>
        </Table>
      </Two>
      <Parts>
        {page.data.parts.map((part) => (
          <li key={part.title}>
            <h2>{part.title}</h2>
            {part.sentences.map((sentence) => (
              <p key={sentence}>{sentence}</p>
            ))}
          </li>
        ))}
      </Parts>
    </Card>
  );
}

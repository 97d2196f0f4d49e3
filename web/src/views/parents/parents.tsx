// What parents should know: one page, to be read or printed.

import styled from "styled-components";
import { Button } from "../../parts/button";
import { phone } from "../../theme/theme";

const Main = styled.main`
  display: grid;
  gap: 1.25rem;
  align-content: start;
  padding: 1.75rem 1.5rem 3rem;
  max-width: 48rem;
  width: 100%;
  margin: 0 auto;
  section {
    display: grid;
    gap: 0.3rem;
  }
  button {
    justify-self: start;
  }
  ${phone} {
    padding: 1rem 1rem 2rem;
  }
  @media print {
    button {
      display: none;
    }
  }
`;

const PARTS: readonly { head: string; says: readonly string[] }[] = [
  {
    head: "What it is",
    says: [
      "Your child learns here to tune a string instrument by ear, on a made-up instrument on the screen.",
      "It shows no advertisements, and sends nothing to anybody else.",
    ],
  },
  {
    head: "What is kept",
    says: [
      "A name your child is called by here. It need not be the real one. No address, no birthday, no picture.",
      "What was played and answered, and how near it came. No sound is recorded.",
      "What a teacher remarked on it.",
      "When your child was last here, to the day, and whether on a phone, a tablet or a computer.",
    ],
  },
  {
    head: "Who sees it",
    says: [
      "The teachers of the studio see what your child plays and how it gets on. Each look is written down, and your child can read who looked.",
      "Other pupils see nothing of it. What is shown to a class has no names.",
      "Whoever looks after the computer it runs on could read what is stored there.",
    ],
  },
  {
    head: "How long",
    says: [
      "Until it is erased; of a single attempt that was erased its time stays. What somebody did without a name goes after 90 days without a visit, unless the school has set another time.",
      "Each answer in a round with the class goes after 30 days. How many were right stays with your child’s work.",
      "Copies that were made for safety before an erasing keep it until they are erased too. Ask the school how long it keeps them.",
    ],
  },
  {
    head: "What you can do",
    says: [
      "Under “My work” all that is kept can be saved as files. Under “Review” all of it can be erased.",
      "A teacher can erase a pupil whom the studio signed up, with everything.",
      "Your child can leave a studio at any time and keep the work.",
    ],
  },
  {
    head: "At the instrument",
    says: [
      "A real string can snap: eyes and face away from it, small turns, and an adult beside a child at first.",
      "With headphones, start quietly.",
    ],
  },
];

export function Parents() {
  return (
    <Main>
      <h1>For parents</h1>
      {PARTS.map(({ head, says }) => (
        <section key={head}>
          <h2>{head}</h2>
          {says.map((one) => (
            <p key={one}>{one}</p>
          ))}
        </section>
      ))}
      <Button onPress={() => print()}>Print this page</Button>
    </Main>
  );
}

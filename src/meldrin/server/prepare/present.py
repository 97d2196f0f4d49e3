"""From questions to their shape; all else has the shape's own names."""

from meldrin.core.fitness import Question
from meldrin.server.prepare.schemas import FitnessOption, FitnessQuestion


def question_of(question: Question) -> FitnessQuestion:
    """Return a question with its options."""
    same = {
        name: getattr(question, name) for name in FitnessQuestion.model_fields if name != "options"
    }
    options = [FitnessOption(value=value, words=words) for value, words in question.options]
    return FitnessQuestion(**same, options=options)

"""The root of all messages."""

from pydantic import BaseModel, ConfigDict


class Wire(BaseModel):
    """Unknown fields are refused, numbers are finite, and nothing changes."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False, frozen=True)

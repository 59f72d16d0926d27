"""What all schemas share."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Words = Annotated[str, Field(max_length=2000)]


class Schema(BaseModel):
    """Fields that are unknown are refused; what has a default is always sent."""

    model_config = ConfigDict(extra="forbid", json_schema_serialization_defaults_required=True, from_attributes=True)


class Done(Schema):
    """A request that was carried out and has nothing more to say."""

    done: bool = True

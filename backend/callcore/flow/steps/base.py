"""What all steps share."""

from __future__ import annotations

from callcore.flow.parts import AnyPrompt, Exit, Part, StepId


class StepBase(Part):
    """A step says only what it has; the default is nothing."""

    id: StepId

    def exits(self) -> tuple[Exit, ...]:
        return ()

    def prompts(self) -> tuple[AnyPrompt, ...]:
        return ()

    def references(self) -> tuple[str | None, ...]:
        """Things that the step names, open ones as None; sounds come with the prompts."""
        return ()

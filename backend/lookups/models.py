"""Lookup tables: typed columns, one of them the key."""

from django.db import models

from changelog.recorded import ConfigItem, Described


class Table(Described):
    """A table. `columns`: [{"name", "type"}], the first is the key.

    Rows belong to a generation; `generation` is the one that counts. A file taken in is a
    new generation, so that taking it back is one change.
    """

    name = models.CharField(max_length=80, unique=True)
    columns = models.JSONField(default=list)
    generation = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ["name"]


class Row(ConfigItem):
    """One row: its key, folded for comparison, and its cells in the order of the columns."""

    # The constraint below is the index: one of the table alone would only tempt the planner to
    # walk a whole table for one key.
    table = models.ForeignKey(Table, on_delete=models.CASCADE, related_name="rows", db_index=False)
    generation = models.PositiveIntegerField(default=1)
    key = models.CharField(max_length=200)
    cells = models.JSONField()

    class Meta:
        ordering = ["key"]
        constraints = [models.UniqueConstraint(fields=["table", "generation", "key"], name="one_row_a_key")]

    @property
    def title(self) -> str:
        return f"Row {self.cells[0] if self.cells else self.key}"

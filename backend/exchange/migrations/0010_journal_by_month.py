"""The journal becomes a partitioned table. What was written so far stays as it lies: it is the
first of its rooms, up to the end of the month of its newest event."""

from django.db import migrations

_INDEXES = (
    "journal_of_contact", "journal_by_time", "journal_of_agent", "journal_of_answers",
    "journal_of_codes",
)

_OLD_ASIDE = "\n".join(
    [
        "ALTER TABLE exchange_journal RENAME TO exchange_journal_first;",
        *(f"ALTER INDEX {name} RENAME TO {name}_first;" for name in _INDEXES),
        "ALTER TABLE exchange_journal_first ALTER COLUMN seq DROP IDENTITY;",
        "ALTER TABLE exchange_journal_first DROP CONSTRAINT exchange_journal_pkey;",
        "ALTER TABLE exchange_journal_first ADD CONSTRAINT exchange_journal_first_pkey"
        " PRIMARY KEY (seq, at_ms);",
    ]
)

_WHOLE = """
CREATE TABLE exchange_journal (LIKE exchange_journal_first) PARTITION BY RANGE (at_ms);
CREATE SEQUENCE exchange_journal_number OWNED BY exchange_journal.seq;
ALTER TABLE exchange_journal ALTER COLUMN seq SET DEFAULT nextval('exchange_journal_number');
ALTER TABLE exchange_journal ADD CONSTRAINT exchange_journal_pkey PRIMARY KEY (seq, at_ms);
CREATE INDEX journal_of_contact ON exchange_journal (contact, seq);
CREATE INDEX journal_by_time ON exchange_journal (site, at_ms);
CREATE INDEX journal_of_agent ON exchange_journal (site, kind, agent, seq DESC);
CREATE INDEX journal_of_answers ON exchange_journal (site, at_ms) WHERE kind = 'leg.answered';
CREATE INDEX journal_of_codes ON exchange_journal ((body -> 'code')) WHERE kind = 'leg.coded';
CREATE TABLE exchange_journal_rest PARTITION OF exchange_journal DEFAULT;
"""

_OLD_BACK = """
DO $$
DECLARE newest bigint; ends bigint;
BEGIN
  SELECT max(at_ms) INTO newest FROM exchange_journal_first;
  IF newest IS NULL THEN
    DROP TABLE exchange_journal_first;
  ELSE
    ends := extract(epoch FROM date_trunc('month', to_timestamp(newest / 1000.0) AT TIME ZONE 'UTC')
      + interval '1 month')::bigint * 1000;
    EXECUTE format('ALTER TABLE exchange_journal ATTACH PARTITION exchange_journal_first'
      ' FOR VALUES FROM (MINVALUE) TO (%s)', ends);
    PERFORM setval('exchange_journal_number',
      (SELECT max(seq) FROM exchange_journal_first));
  END IF;
END $$;
"""


class Migration(migrations.Migration):
    dependencies = [("exchange", "0009_journal_of_codes")]

    operations = [migrations.RunSQL(_OLD_ASIDE + _WHOLE + _OLD_BACK, elidable=False)]

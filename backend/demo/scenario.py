"""Ostrel Island Ferries, as plain data. Everybody and everything in it is made up."""

from __future__ import annotations

from typing import Any

PASSWORD = "ferry-demo"  # noqa: S105  shown to everybody who starts the demo

#: sign-in name, full name, role
OFFICE = [
    ("tamsin", "Tamsin Okafor", "administrator"),
    ("deepa", "Deepa Ramanathan", "supervisor"),
    ("guest", "Guest of the harbour office", "read_only"),
]

#: team: (site, [(full name, extension)]); the sign-in is the first name
TEAMS: dict[str, tuple[str, list[tuple[str, str]]]] = {
    "Bookings, Ostrel": ("Ostrel", [
        ("Nerys Vaughan", "4101"), ("Kofi Mensah", "4102"), ("Aoife Brannigan", "4103"),
        ("Lukas Brandt", "4105"), ("Sofia Marchetti", "4106"), ("Hana Kowalczyk", "4108"),
        ("Gethin Parry", "4109"), ("Amara Nwosu", "4110"), ("Pekka Laine", "4111"),
        ("Yuki Mori", "4112"), ("Rosa Delgado", "4113"), ("Emil Novak", "4114"),
    ]),
    "Bookings, Haven Quay": ("Haven Quay", [
        ("Leilani Kahale", "4201"), ("Owain Pryce", "4202"), ("Fatima Zahra", "4203"),
        ("Jun Takeda", "4204"), ("Sioned Rees", "4205"), ("Bram de Wit", "4206"),
        ("Noor Haddad", "4207"), ("Piotr Zielinski", "4208"), ("Clara Lindqvist", "4209"),
        ("Tomos Griffith", "4210"),
    ]),
    "Freight": ("Haven Quay", [
        ("Ingrid Solheim", "4301"), ("Chidi Eze", "4302"), ("Tomasz Wrona", "4303"),
        ("Marta Silva", "4304"), ("Ruben Aalto", "4305"), ("Dilys Morgan", "4306"),
        ("Karim Benali", "4307"),
    ]),
    "Passenger care": ("Ostrel", [
        ("Bronwen Ellis", "4401"), ("Viktor Halas", "4402"), ("Mei Lin Tan", "4403"),
        ("Idris Bowen", "4404"), ("Paula Ferreira", "4405"),
    ]),
    "Evening line": ("Ostrel", [
        ("Anwen Lloyd", "4501"), ("Samir Patel", "4502"), ("Greta Holm", "4503"),
        ("Luca Romano", "4504"), ("Wanda Kruk", "4505"),
    ]),
}  # fmt: skip

#: first names of those who speak Welsh as well
WELSH = {
    "Nerys", "Owain", "Bronwen", "Gethin", "Sioned", "Tomos", "Dilys", "Idris", "Anwen",
}  # fmt: skip
#: skill: level by first name
SKILLS: dict[str, dict[str, int]] = {
    "Vehicles and freight": {"Ingrid": 9, "Chidi": 7, "Tomasz": 5, "Marta": 6, "Ruben": 3,
                             "Dilys": 4, "Karim": 8, "Lukas": 3, "Pekka": 2},
    "Assistance on board": {"Bronwen": 9, "Viktor": 6, "Mei": 7, "Idris": 5, "Paula": 8},
    "Groups": {"Nerys": 8, "Kofi": 5, "Leilani": 7, "Owain": 6},
}  # fmt: skip

#: How many agents the stand-ins let work, and by which seed: none of those that the README names.
AT_WORK, SEED = 16, 10
#: Callers, of what the profile says, once the demo has lived through its day: somebody waits.
LOAD = 1.2

CODES = [
    ("New booking", "11", "Bookings"), ("Booking changed", "12", "Bookings"),
    ("Booking cancelled", "13", "Bookings"), ("Refund asked for", "14", "Bookings"),
    ("Fare question", "21", "Questions"), ("Timetable question", "22", "Questions"),
    ("Vehicle booked", "31", "Freight"), ("Dangerous goods", "32", "Freight"),
    ("Assistance arranged", "41", "Care"), ("Complaint", "51", "Care"),
    ("Wrong number", "91", "Other"),
]  # fmt: skip

CODE_SETS = {
    "Booking codes": ["11", "12", "13", "14", "21", "22", "51", "91"],
    "Freight codes": ["31", "32", "21", "22", "51", "91"],
    "Care codes": ["41", "22", "51", "91"],
}

#: name, colour, teams, code set, skill and least level, changed settings, note
QUEUES: list[tuple[str, str, list[str], str, tuple[str, int] | None, dict[str, Any], str]] = [
    ("Bookings", "#4A6B66", ["Bookings, Ostrel", "Bookings, Haven Quay", "Evening line"],
     "Booking codes", None,
     {"threshold_s": 60, "goal_percent": 80, "extension": "4100", "recording": "all",
      "transcribed": True, "link": "https://bookings.ostrel.example/find?caller={caller}"},
     "Ask for the booking reference first. Summer fares run from 1 May to 30 September."),
    ("Freight", "#8A6A2F", ["Freight"], "Freight codes", ("Vehicles and freight", 4),
     {"threshold_s": 60, "goal_percent": 80, "distribution": "best_skill", "priority_growth": 0.5,
      "extension": "4300", "recording": "on_demand", "recording_told": "tone", "last_agent_s": 15},
     "Ask for length, height and weight of the vehicle, and what it carries."),
    ("Assistance", "#6C3B5E", ["Passenger care"], "Care codes", ("Assistance on board", 5),
     {"threshold_s": 30, "goal_percent": 90, "priority": 8},
     "Ask what help is needed, at which port, and whether someone travels along."),
]  # fmt: skip
#: queue: seconds, levels lower, team let in
WIDENING = {
    "Freight": [(45, 2, ""), (90, 1, "Bookings, Ostrel")],
    "Assistance": [(60, 3, "")],
}  # fmt: skip
#: Teams whose people the supervisor of the demo reaches.
SUPERVISED = ("Bookings, Ostrel", "Bookings, Haven Quay", "Passenger care", "Freight")
#: handling rules of the centre, where they are not those that every centre begins with
CENTRE_RULES = {"emergency_how": "alerts", "texts": 3, "reply_s": 600, "reminder_s": 20}
#: handling rules of a team
TEAM_RULES = {
    "Freight": {"ring_s": 25, "longest_wrap_s": 180, "target_wrap_s": 90, "wrap_up": "required"},
    "Evening line": {"missed": "away"},
}  # fmt: skip


#: Always open; closed by hand while a storm keeps the boats in port.
STORM = {
    "name": "Boats can sail",
    "time_zone": "Europe/London",
    "week": [[{"start": 0, "end": 24 * 60}]] * 7,
    "exceptions": [],
}
DAY, LATE = {"start": 8 * 60, "end": 18 * 60}, {"start": 8 * 60, "end": 20 * 60}
HOURS = {
    "name": "Office hours",
    "time_zone": "Europe/London",
    "week": [[DAY], [DAY], [LATE], [DAY], [DAY, {"start": 22 * 60, "end": 25 * 60}],
             [{"start": 8 * 60, "end": 16 * 60}], [{"start": 10 * 60, "end": 16 * 60}]],
    "exceptions": [
        {"name": "Christmas Day", "day": "2026-12-25", "yearly": True, "spans": []},
        {"name": "Boxing Day", "day": "2026-12-26", "yearly": True,
         "spans": [{"start": 10 * 60, "end": 14 * 60}]},
        {"name": "Staff meeting", "day": "2027-01-13", "yearly": False,
         "spans": [{"start": 8 * 60, "end": 13 * 60}, {"start": 14 * 60, "end": 20 * 60}]},
        {"name": "Regatta day", "day": "2027-07-31", "yearly": False,
         "spans": [{"start": 8 * 60, "end": 13 * 60}]},
    ],
}  # fmt: skip


def text(words: str) -> dict[str, str]:
    return {"kind": "text", "text": words, "language": "en"}


def welcome(refs: dict[str, str], summer: str, winter: str) -> dict[str, Any]:
    """A shared block: the greeting of the season, or what there is to say in a storm."""
    return {
        "purpose": "block",
        "start": "storm",
        "steps": [
            {"kind": "hours", "id": "storm", "hours": refs["storm"], "open": "season",
             "closed": "storm-words"},
            {"kind": "say", "id": "storm-words", "next": "greeted",
             "prompt": {"kind": "sound", "sound": refs["storm words"]}},
            {"kind": "times", "id": "season", "name": "Which timetable", "otherwise": "winter",
             "arms": [{"id": "summer", "label": "Summer", "next": "summer", "periods": [
                 {"first": "2027-05-01", "last": "2027-09-30"}]}]},
            {"kind": "say", "id": "summer", "next": "greeted",
             "prompt": {"kind": "sound", "sound": summer}},
            {"kind": "say", "id": "winter", "next": "greeted",
             "prompt": {"kind": "sound", "sound": winter}},
            {"kind": "end", "id": "greeted", "label": "Greeted"},
        ],
    }  # fmt: skip


def main_line(refs: dict[str, str]) -> dict[str, Any]:
    """The main line: a shared greeting, five keys, a sub-menu, three queues, hours of one."""
    say = {"kind": "say"}
    return {
        "language": "en",
        "start": "welcome",
        "stay_limit_s": 600,
        "failure_prompt": text("We are sorry, something went wrong. Please call again."),
        "steps": [
            {"kind": "block", "id": "welcome", "flow": refs["Welcome"], "worked": "main-menu",
             "not_worked": "main-menu"},
            {"kind": "menu", "id": "main-menu", "name": "Main menu", "wait_s": 8, "tries": 3,
             "prompt": text("For bookings and changes, press 1. For today's sailings, press 2. "
                            "For help on board, press 3. For vehicles and freight, press 4. "
                            "If you know an extension, press 0. You can also say what you need."),
             "listens": True,
             "no_key_prompt": text("Sorry, I heard no key."),
             "wrong_key_prompt": text("That is not a choice."),
             "arms": [
                 {"key": "1", "label": "Bookings & changes", "next": "bookings",
                  "words": ["booking", "bookings", "book a crossing", "ticket"]},
                 {"key": "2", "label": "Sailing today", "next": "sailings",
                  "words": ["sail", "sailing", "sailings", "timetable"]},
                 {"key": "3", "label": "Help on board", "next": "assistance-note",
                  "words": ["help", "wheelchair", "assistance"]},
                 {"key": "4", "label": "Vehicles & freight", "next": "freight",
                  "words": ["freight", "lorry", "vehicle"]},
                 {"key": "0", "label": "Extension", "next": "extension"},
             ],
             "no_key": "bookings"},
            {"kind": "extension", "id": "extension", "prompt": text("Please dial the extension."),
             "none": "bookings", "no_answer": "bookings"},
            {"kind": "queue", "id": "bookings", "queue": refs["Bookings"],
             "waited": "bookings-late"},
            {"kind": "end", "id": "bookings-late", "label": "Asked to call later",
             "prompt": text("All our colleagues are still busy. Please call again later today.")},
            {**say, "id": "sailings", "next": "sailings-menu",
             "prompt": text("Today all boats sail as planned. Ostrel to Haven Quay every hour from "
                            "six in the morning until ten at night.")},
            {"kind": "menu", "id": "sailings-menu", "name": "After the sailings", "wait_s": 5,
             "tries": 1,
             "prompt": text("To hear the main menu again, press star. For a booking, press 1."),
             "arms": [
                 {"key": "1", "label": "Bookings", "next": "bookings"},
                 {"key": "*", "label": "Main menu", "next": "main-menu"},
             ],
             "no_key": "sailings-heard"},
            {"kind": "end", "id": "sailings-heard", "label": "Sailings heard",
             "prompt": text("Thank you, and a calm crossing.")},
            {**say, "id": "assistance-note", "next": "assistance-open",
             "prompt": text("Please tell us at least two hours before you sail.")},
            {"kind": "hours", "id": "assistance-open", "hours": refs["hours"],
             "open": "assistance", "closed": "night"},
            {"kind": "go", "id": "night", "flow": refs["After hours"], "failed": "bookings-late"},
            {"kind": "queue", "id": "assistance", "queue": refs["Assistance"],
             "waited": "night"},
            {"kind": "queue", "id": "freight", "queue": refs["Freight"],
             "waited": "freight-late"},
            {"kind": "message", "id": "freight-late", "mailbox": refs["Freight desk mailbox"],
             "thanks": text("Thank you. Our freight desk answers the same day."),
             "failed": "bookings-late"},
        ],
    }  # fmt: skip


def after_hours(refs: dict[str, str]) -> dict[str, Any]:
    """The night line: what can wait goes into a mailbox, what cannot rings the harbour."""
    return {
        "start": "closed",
        "stay_limit_s": 420,
        "accepted": [{"code": "outside-at-any-hour", "step": "harbour",
                      "reason": "Help on a crossing must be reached at any hour."}],
        "failure_prompt": text("We are sorry, something went wrong. Please call again."),
        "steps": [
            {"kind": "say", "id": "closed", "next": "urgent",
             "prompt": text("You are calling outside of our office hours.")},
            {"kind": "menu", "id": "urgent", "name": "Can it wait", "wait_s": 6, "tries": 2,
             "prompt": text("If you need help on a crossing today, press 1. To leave a message, "
                            "press 2."),
             "arms": [{"key": "1", "label": "Help today", "next": "harbour"},
                      {"key": "2", "label": "Leave a message", "next": "message"}],
             "no_key": "message"},
            {"kind": "ring", "id": "harbour", "number": "+441632960120", "ring_s": 25,
             "no_answer": "message", "busy": "message", "failed": "message"},
            {"kind": "message", "id": "message", "mailbox": refs["Night line mailbox"],
             "failed": "bye", "thanks": text("Thank you. We call you back in the morning.")},
            {"kind": "end", "id": "bye", "label": "Asked to call again",
             "prompt": text("Please call again from eight in the morning.")},
        ],
    }  # fmt: skip


def lost_property(queue: str) -> dict[str, Any]:
    """A draft that is not finished: its queue is only a name, and a key leads nowhere."""
    return {
        "language": "en",
        "start": "hello",
        "steps": [
            {"kind": "say", "id": "hello", "next": "choice",
             "prompt": text("You have reached lost property at Haven Quay.")},
            {"kind": "menu", "id": "choice", "name": "What was lost", "tries": None,
             "prompt": text("For something lost on board, press 1. For luggage, press 2. "
                            "For something lost at a port, press 3."),
             "arms": [
                 {"key": "1", "label": "Lost on board", "next": "desk"},
                 {"key": "2", "label": "Luggage", "next": None},
             ],
             "no_key": "hello"},
            {"kind": "queue", "id": "desk", "queue": queue, "waited": None},
        ],
    }  # fmt: skip


def port_desk() -> dict[str, Any]:
    """One flow for every port: each number names its port, its desk and its mailbox."""
    return {
        "language": "en",
        "start": "welcome",
        "stay_limit_s": 600,
        "inputs": [
            {"name": "port", "label": "Port", "type": "text", "default": "Ostrel"},
            {"name": "desk", "label": "Desk", "type": "queue", "default": None},
            {"name": "office", "label": "Hours of the desk", "type": "hours", "default": None},
            {"name": "mailbox", "label": "Mailbox at night", "type": "mailbox", "default": None},
        ],
        "failure_prompt": text("We are sorry, something went wrong. Please call again."),
        "steps": [
            {"kind": "say", "id": "welcome", "next": "open",
             "prompt": text("This is the port desk of Ostrel Island Ferries at {port}.")},
            {"kind": "hours", "id": "open", "hours": "value:office", "open": "desk",
             "closed": "night"},
            {"kind": "queue", "id": "desk", "queue": "value:desk", "waited": "night"},
            {"kind": "message", "id": "night", "mailbox": "value:mailbox", "failed": "busy",
             "thanks": text("Thank you. We will call you back.")},
            {"kind": "end", "id": "busy", "label": "Asked to call again",
             "prompt": text("Nobody can take your call now. Please call again.")},
        ],
    }  # fmt: skip


def text_line(refs: dict[str, str]) -> dict[str, Any]:
    """By text: today's sailings by a keyword, the rest by an answer to a menu."""
    wait_s = 1800
    return {
        "channel": "text",
        "start": "about",
        "stay_limit_s": 7200,
        "failure_prompt": text("We are sorry, something went wrong. Please write again."),
        "steps": [
            {"kind": "fork", "id": "about", "name": "What is it about", "otherwise": "menu",
             "arms": [
                 {"id": "sailing", "label": "asks about sailings", "next": "sailings",
                  "when": {"join": "or", "parts": [
                      {"kind": "compare", "value": "message", "how": "contains", "other": word}
                      for word in ("sail", "ferry", "hwylio")]}},
                 {"id": "stop", "label": "wants no texts", "next": "stopped",
                  "when": {"parts": [{"kind": "compare", "value": "message", "how": "is",
                                      "other": "stop"}]}},
             ]},
            {"kind": "say", "id": "sailings", "next": "menu",
             "prompt": text("Today all boats sail as planned: Ostrel to Haven Quay every hour "
                            "from 06:00 to 22:00.")},
            {"kind": "menu", "id": "menu", "name": "What else", "wait_s": wait_s, "tries": 2,
             "prompt": text("Can we help with a booking, or with something lost on board? "
                            "Answer BOOKING or LOST, or NO."),
             "arms": [
                 {"key": "1", "label": "Booking", "words": ["book", "bookings", "ticket"],
                  "next": "open"},
                 {"key": "2", "label": "Lost", "words": ["lost property", "left on board"],
                  "next": "lost"},
                 {"key": "3", "label": "No", "words": ["no thanks", "bye"], "next": "bye"},
             ],
             "no_key": "bye"},
            {"kind": "hours", "id": "open", "hours": refs["hours"], "open": "desk",
             "closed": "closed"},
            {"kind": "label", "id": "lost", "label": "Lost property", "next": "open"},
            {"kind": "queue", "id": "desk", "queue": refs["Bookings"], "waited": "closed"},
            {"kind": "end", "id": "closed", "label": "Asked to write again",
             "prompt": text("Nobody can answer now. Please write again in our office hours.")},
            {"kind": "end", "id": "stopped", "label": "No texts wanted",
             "prompt": text("You will get no more texts from us.")},
            {"kind": "end", "id": "bye", "label": "Answered",
             "prompt": text("Thank you, and a calm crossing.")},
        ],
    }  # fmt: skip


def booking_check(table: str) -> dict[str, Any]:
    """A shared block: asks for a group booking and finds it; gives back whose it is."""
    return {
        "purpose": "block",
        "start": "ask",
        "inputs": [{"name": "question", "label": "What is asked", "type": "text",
                    "default": "Please type the number of your group booking, then hash."}],
        "outputs": ["party", "people"],
        "steps": [
            {"kind": "digits", "id": "ask", "prompt": text("{question}"), "into": "booking",
             "least": 4, "most": 4, "tries": 2, "next": "prefix", "no_digits": "unknown"},
            {"kind": "lookup", "id": "prefix", "table": table, "key": "booking",
             "take": [{"column": "Party", "into": "party"},
                      {"column": "People", "into": "people"}],
             "found": "found", "not_found": "unknown", "failed": "unknown"},
            {"kind": "end", "id": "found", "label": "Found",
             "prompt": text("Thank you, {party}.")},
            {"kind": "end", "id": "unknown", "label": "Not found", "worked": False},
        ],
    }  # fmt: skip


def group_travel(refs: dict[str, str], block: str) -> dict[str, Any]:
    """Groups: the booking is looked up first, and large parties go to the front."""
    return {
        "start": "hello",
        "failure_prompt": text("We are sorry, something went wrong. Please call again."),
        "steps": [
            {"kind": "say", "id": "hello", "next": "check",
             "prompt": text("Welcome to group travel at Ostrel Island Ferries.")},
            {"kind": "block", "id": "check", "flow": block, "worked": "size",
             "not_worked": "staffed", "take": [{"output": "party", "into": "party"},
                                               {"output": "people", "into": "people"}]},
            {"kind": "fork", "id": "size", "name": "How large", "otherwise": "small",
             "arms": [{"id": "large", "label": "more than 20", "next": "large",
                       "when": {"parts": [{"kind": "compare", "value": "people", "how": "more_than",
                                           "other": 20}]}}]},
            {"kind": "label", "id": "large", "label": "Group {party}, {people}", "priority": 9,
             "next": "staffed"},
            {"kind": "label", "id": "small", "label": "Group {party}", "next": "staffed"},
            {"kind": "check_queue", "id": "staffed", "queue": refs["Bookings"],
             "figure": "signed_in", "limit": 1, "yes": "desk", "no": "message"},
            {"kind": "queue", "id": "desk", "queue": refs["Bookings"], "waited": "message"},
            {"kind": "message", "id": "message", "mailbox": refs["Night line mailbox"],
             "failed": "sorry", "thanks": text("Thank you. We call you back.")},
            {"kind": "end", "id": "sorry", "label": "Asked to call again",
             "prompt": text("Please call again tomorrow.")},
        ],
    }  # fmt: skip


def inside_line(refs: dict[str, str]) -> dict[str, Any]:
    """For partners: an extension, a name, or a message; music while somebody is looked for."""
    return {
        "start": "fax",
        "failure_prompt": text("We are sorry, something went wrong. Please call again."),
        "steps": [
            {"kind": "fax", "id": "fax", "seconds": 3, "no_fax": "choice", "fax": "faxes"},
            {"kind": "end", "id": "faxes", "label": "A fax machine"},
            {"kind": "menu", "id": "choice", "name": "Whom do you want", "tries": 2, "wait_s": 6,
             "prompt": text("If you know the extension, press 1. To spell a name, press 2. "
                            "For the office, press 3."),
             "arms": [{"key": "1", "label": "Extension", "next": "extension"},
                      {"key": "2", "label": "Name", "next": "name"},
                      {"key": "3", "label": "Office", "next": "office"}],
             "no_key": "message"},
            {"kind": "extension", "id": "extension", "prompt": text("Please dial the extension."),
             "none": "round", "no_answer": "message"},
            {"kind": "directory", "id": "name", "prompt": text("Spell the surname on the keys."),
             "none": "round", "no_answer": "message"},
            {"kind": "repeat", "id": "round", "times": 2, "again": "choice", "done": "message"},
            {"kind": "ring", "id": "office", "group": refs["Office"], "no_answer": "music",
             "busy": "music", "failed": "message"},
            {"kind": "music", "id": "music", "seconds": 15, "next": "message"},
            {"kind": "message", "id": "message", "mailbox": refs["Night line mailbox"],
             "failed": "bye", "thanks": text("Thank you.")},
            {"kind": "end", "id": "bye", "label": "Asked to write",
             "prompt": text("Please write to us.")},
        ],
    }  # fmt: skip


#: name: English, Welsh
SOUNDS = {
    "Welcome, summer": ("Thank you for calling Ostrel Island Ferries.",
                        "Diolch am ffonio Ostrel Island Ferries."),
    "Welcome, winter": ("Thank you for calling Ostrel Island Ferries. The winter timetable counts.",
                        "Diolch am ffonio Ostrel Island Ferries. Mae amserlen y gaeaf mewn grym."),
    "Storm closure": ("Because of the storm no boats sail today. We are sorry for the trouble.",
                      "Oherwydd y storm nid oes cychod yn hwylio heddiw. Mae'n ddrwg gennym."),
    "Recording notice": ("This call may be recorded.", "Gellir recordio'r alwad hon."),
}  # fmt: skip
OPENINGS = ("Welcome, summer", "Welcome, winter")

#: name, extension, owner (shared, a queue, or a person), longest, greeting
MAILBOXES = [
    (
        "Night line",
        "4800",
        "",
        180,
        "You have reached Ostrel Island Ferries out of hours. Please leave a message.",
    ),
    (
        "Freight desk",
        "4801",
        "Freight",
        120,
        "The freight desk is closed. Please leave the size and weight of your vehicle.",
    ),
    ("Tamsin Okafor", "", "", 60, "This is Tamsin Okafor. Please leave a message."),
]

#: What flows are for, where they say so.
ABOUT = {
    "Main line": "Everybody who calls one of the printed numbers begins here.",
    "Port desk": "One flow for the desks of all ports; each number says which.",
    "Inside line": "For partners and our own crews.",
    "Booking check": "Shared: finds a booking by its figures.",
}

#: A ring group: its name, extension, mailbox, and how many of a team, then which team whole.
GROUP = ("Office", "4790", "Night line", ("Passenger care", 2), "Evening line")

#: mailbox, caller, hours ago, seconds
MESSAGES = [
    ("Night line", "+447700900214", 3.2, 14),
    ("Night line", "+441632960377", 9.5, 22),
    ("Night line", "+447700900650", 11.1, 9),
    ("Freight desk", "+441632960455", 14.0, 31),
    ("Freight desk", "+447700900871", 15.3, 12),
]

TABLE = {
    "name": "Group bookings",
    "columns": [{"name": "Booking", "type": "text"}, {"name": "Party", "type": "text"},
                {"name": "People", "type": "number"}, {"name": "Paid", "type": "yes_no"},
                {"name": "Sails on", "type": "date"}],
}  # fmt: skip
ROWS = """Booking,Party,People,Paid,Sails on
1041,Northby Choral Society,38,yes,2027-05-14
1042,Haven Quay Primary School,61,no,2027-06-02
1043,Sant Mora Cycling Club,17,yes,2027-06-19
1044,Ostrel Brass Band,24,yes,2027-07-03
1045,Friends of the Lighthouse,12,no,2027-07-30
"""

#: address, label, flow, values (a name after : is looked up)
NUMBERS: list[tuple[str, str, str, dict[str, str]]] = [
    ("+442079460210", "Main line", "Main line", {}),
    ("+448081570144", "Freephone", "Main line", {}),
    ("+441632960100", "Ostrel harbour office", "Main line", {}),
    ("+441632960188", "Lost property", "Lost property", {}),
    ("+441632960141", "Port desk, Ostrel", "Port desk",
     {"port": "Ostrel", "desk": "queue:Bookings", "office": "hours:",
      "mailbox": "mailbox:Night line"}),
    ("+441632960142", "Port desk, Haven Quay", "Port desk",
     {"port": "Haven Quay", "desk": "queue:Bookings", "office": "hours:",
      "mailbox": "mailbox:Night line"}),
    ("+441632960143", "Port desk, Sant Mora", "Port desk",
     {"port": "Sant Mora", "desk": "queue:Freight", "office": "hours:",
      "mailbox": "mailbox:Freight desk"}),
    ("+441632960144", "Port desk, Northby", "Port desk",
     {"port": "Northby", "desk": "queue:Freight", "office": "hours:",
      "mailbox": "mailbox:Freight desk"}),
    ("+441632960150", "Group travel", "Group travel", {}),
    ("+447700900300", "Text line", "Text line", {}),
    ("+441632960160", "Partners", "Inside line", {}),
    ("4700", "Bridge telephone", "Port desk",
     {"port": "the bridge", "desk": "queue:Assistance", "office": "hours:",
      "mailbox": "mailbox:Night line"}),
]  # fmt: skip

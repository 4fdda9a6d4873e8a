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
    "Bookings, Ostrel": (
        "Ostrel",
        [
            ("Nerys Vaughan", "4101"),
            ("Kofi Mensah", "4102"),
            ("Aoife Brannigan", "4103"),
            ("Lukas Brandt", "4105"),
            ("Sofia Marchetti", "4106"),
            ("Hana Kowalczyk", "4108"),
            ("Gethin Parry", "4109"),
            ("Amara Nwosu", "4110"),
            ("Pekka Laine", "4111"),
            ("Yuki Mori", "4112"),
            ("Rosa Delgado", "4113"),
            ("Emil Novak", "4114"),
        ],
    ),
    "Bookings, Haven Quay": (
        "Haven Quay",
        [
            ("Leilani Kahale", "4201"),
            ("Owain Pryce", "4202"),
            ("Fatima Zahra", "4203"),
            ("Jun Takeda", "4204"),
            ("Sioned Rees", "4205"),
            ("Bram de Wit", "4206"),
            ("Noor Haddad", "4207"),
            ("Piotr Zielinski", "4208"),
            ("Clara Lindqvist", "4209"),
            ("Tomos Griffith", "4210"),
        ],
    ),
    "Freight": (
        "Haven Quay",
        [
            ("Ingrid Solheim", "4301"),
            ("Chidi Eze", "4302"),
            ("Tomasz Wrona", "4303"),
            ("Marta Silva", "4304"),
            ("Ruben Aalto", "4305"),
            ("Dilys Morgan", "4306"),
            ("Karim Benali", "4307"),
        ],
    ),
    "Passenger care": (
        "Ostrel",
        [
            ("Bronwen Ellis", "4401"),
            ("Viktor Halas", "4402"),
            ("Mei Lin Tan", "4403"),
            ("Idris Bowen", "4404"),
            ("Paula Ferreira", "4405"),
        ],
    ),
    "Evening line": (
        "Ostrel",
        [
            ("Anwen Lloyd", "4501"),
            ("Samir Patel", "4502"),
            ("Greta Holm", "4503"),
            ("Luca Romano", "4504"),
            ("Wanda Kruk", "4505"),
        ],
    ),
}

#: first names of those who speak Welsh as well
WELSH = {"Nerys", "Owain", "Bronwen", "Gethin", "Sioned", "Tomos", "Dilys", "Idris", "Anwen"}
#: skill: level by first name
SKILLS: dict[str, dict[str, int]] = {
    "Vehicles and freight": {
        "Ingrid": 9,
        "Chidi": 7,
        "Tomasz": 5,
        "Marta": 6,
        "Ruben": 3,
        "Dilys": 4,
        "Karim": 8,
        "Lukas": 3,
        "Pekka": 2,
        "Aoife": 3,
        "Hana": 4,
        "Yuki": 3,
        "Emil": 2,
        "Rosa": 3,
    },
    "Assistance on board": {
        "Bronwen": 9,
        "Viktor": 6,
        "Mei": 7,
        "Idris": 5,
        "Paula": 8,
        "Anwen": 5,
        "Samir": 6,
        "Greta": 5,
    },
    "Groups": {"Nerys": 8, "Kofi": 5, "Leilani": 7, "Owain": 6},
}

#: How many agents the stand-ins let work, and by which seed.
AT_WORK, SEED = 34, 10
#: Callers, of what the usual profile says: in the weeks before, and today, when somebody waits.
LOAD, LOAD_TODAY = 0.68, 0.95
#: What the stand-ins are like, where they are not as usual; see `callcore.people.said`.
PEOPLE: dict[str, Any] = {
    "talk": {"kind": "lognormal", "mean_s": 370, "spread": 0.6},
    "wraps": {"kind": "lognormal", "mean_s": 30, "spread": 0.5},
    "shifts": [6.75, 7.5, 7.75, 8, 8, 8.5, 8.75, 9, 9, 9.5, 10, 10.5, 11, 12, 13, 14.5],
    "days_off": 0.32,
    "coded": 0.94,
    "codes": {
        "New booking": 6,
        "Booking changed": 4,
        "Booking cancelled": 1.4,
        "Refund asked for": 1,
        "Fare question": 2.4,
        "Timetable question": 1.9,
        "Vehicle booked": 5,
        "Dangerous goods": 0.8,
        "Assistance arranged": 5,
        "Complaint": 0.5,
        "Wrong number": 0.3,
        "Passed on": 0.05,
    },
    "passes_as": "Passed on",
    "numbers": {
        "+442079460210": 9,
        "+448081570144": 4,
        "+441632960100": 2,
        "+441632960141": 1.5,
        "+441632960142": 1.2,
        "+441632960143": 0.8,
        "+441632960144": 0.8,
        "+441632960150": 1.2,
        "+447700900300": 2,
        "+441632960160": 0.4,
    },
}

CODES = [
    ("New booking", "11", "Bookings"),
    ("Booking changed", "12", "Bookings"),
    ("Booking cancelled", "13", "Bookings"),
    ("Refund asked for", "14", "Bookings"),
    ("Fare question", "21", "Questions"),
    ("Timetable question", "22", "Questions"),
    ("Vehicle booked", "31", "Freight"),
    ("Dangerous goods", "32", "Freight"),
    ("Assistance arranged", "41", "Care"),
    ("Complaint", "51", "Care"),
    ("Passed on", "81", "Other"),
    ("Wrong number", "91", "Other"),
]

CODE_SETS = {
    "Booking codes": ["11", "12", "13", "14", "21", "22", "51", "81", "91"],
    "Freight codes": ["31", "32", "21", "22", "51", "81", "91"],
    "Care codes": ["41", "14", "22", "51", "81", "91"],
}

#: name, colour, teams, code set, skill and least level, changed settings, note
QUEUES: list[tuple[str, str, list[str], str, tuple[str, int] | None, dict[str, Any], str]] = [
    (
        "Bookings",
        "#4A6B66",
        ["Bookings, Ostrel", "Bookings, Haven Quay", "Evening line"],
        "Booking codes",
        None,
        {
            "threshold_s": 60,
            "goal_percent": 80,
            "extension": "4100",
            "group": "Selling",
            "recording": "all",
            "transcribed": True,
            "link": "https://bookings.ostrel.example/find?caller={caller}",
        },
        "Ask for the booking reference first. Summer fares run from 1 May to 30 September.",
    ),
    (
        "Freight",
        "#8A6A2F",
        ["Freight"],
        "Freight codes",
        ("Vehicles and freight", 4),
        {
            "threshold_s": 60,
            "goal_percent": 80,
            "distribution": "best_skill",
            "priority_growth": 0.5,
            "extension": "4300",
            "group": "Selling",
            "recording": "on_demand",
            "recording_told": "tone",
            "last_agent_s": 15,
        },
        "Ask for length, height and weight of the vehicle, and what it carries.",
    ),
    (
        "Assistance",
        "#6C3B5E",
        ["Passenger care", "Evening line"],
        "Care codes",
        ("Assistance on board", 5),
        {"threshold_s": 30, "goal_percent": 90, "priority": 8, "group": "Care"},
        "Ask what help is needed, at which port, and whether someone travels along.",
    ),
]
#: queue: seconds, levels lower, team let in
WIDENING = {"Freight": [(20, 2, "Bookings, Ostrel"), (60, 1, "")], "Assistance": [(30, 3, "")]}
#: Teams whose people the supervisor of the demo reaches.
SUPERVISED = ("Bookings, Ostrel", "Bookings, Haven Quay", "Passenger care", "Freight")
#: handling rules of the centre, where they are not those that every centre begins with
CENTRE_RULES = {"emergency_how": "alerts", "texts": 3, "reply_s": 600, "reminder_s": 20}
#: handling rules of a team
TEAM_RULES: dict[str, dict[str, Any]] = {
    "Freight": {"ring_s": 25, "longest_wrap_s": 180, "target_wrap_s": 90, "wrap_up": "required"},
    "Evening line": {"missed": "away"},
}


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
    "week": [
        [DAY],
        [DAY],
        [LATE],
        [DAY],
        [DAY, {"start": 22 * 60, "end": 25 * 60}],
        [{"start": 8 * 60, "end": 16 * 60}],
        [{"start": 10 * 60, "end": 16 * 60}],
    ],
    "exceptions": [
        {"name": "Christmas Day", "day": "2026-12-25", "yearly": True, "spans": []},
        {
            "name": "Boxing Day",
            "day": "2026-12-26",
            "yearly": True,
            "spans": [{"start": 10 * 60, "end": 14 * 60}],
        },
        {
            "name": "Staff meeting",
            "day": "2027-01-13",
            "yearly": False,
            "spans": [{"start": 8 * 60, "end": 13 * 60}, {"start": 14 * 60, "end": 20 * 60}],
        },
        {
            "name": "Regatta day",
            "day": "2027-07-31",
            "yearly": False,
            "spans": [{"start": 8 * 60, "end": 13 * 60}],
        },
    ],
}

#: name: English, Welsh
#: Alerts by name and queue.
ALERTS: list[tuple[str, str, dict[str, Any]]] = [
    ("Bookings is behind", "Bookings", {"figure": "longest", "above": True, "value": 120, "for_s": 20}),
    ("Nobody for freight", "Freight", {"figure": "available", "above": False, "value": 1, "for_s": 300}),
]
SOUNDS = {
    "Welcome, summer": (
        "Thank you for calling Ostrel Island Ferries.",
        "Diolch am ffonio Ostrel Island Ferries.",
    ),
    "Welcome, winter": (
        "Thank you for calling Ostrel Island Ferries. The winter timetable counts.",
        "Diolch am ffonio Ostrel Island Ferries. Mae amserlen y gaeaf mewn grym.",
    ),
    "Storm closure": (
        "Because of the storm no boats sail today. We are sorry for the trouble.",
        "Oherwydd y storm nid oes cychod yn hwylio heddiw. Mae'n ddrwg gennym.",
    ),
    "Recording notice": ("This call may be recorded.", "Gellir recordio'r alwad hon."),
}
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
    "Booking check": "Shared: finds a booking by its digits.",
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
    "columns": [
        {"name": "Booking", "type": "text"},
        {"name": "Party", "type": "text"},
        {"name": "People", "type": "number"},
        {"name": "Paid", "type": "yes_no"},
        {"name": "Sails on", "type": "date"},
    ],
}
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
    (
        "+441632960141",
        "Port desk, Ostrel",
        "Port desk",
        {"port": "Ostrel", "desk": "queue:Bookings", "office": "hours:", "mailbox": "mailbox:Night line"},
    ),
    (
        "+441632960142",
        "Port desk, Haven Quay",
        "Port desk",
        {"port": "Haven Quay", "desk": "queue:Bookings", "office": "hours:", "mailbox": "mailbox:Night line"},
    ),
    (
        "+441632960143",
        "Port desk, Sant Mora",
        "Port desk",
        {"port": "Sant Mora", "desk": "queue:Freight", "office": "hours:", "mailbox": "mailbox:Freight desk"},
    ),
    (
        "+441632960144",
        "Port desk, Northby",
        "Port desk",
        {"port": "Northby", "desk": "queue:Freight", "office": "hours:", "mailbox": "mailbox:Freight desk"},
    ),
    ("+441632960150", "Group travel", "Group travel", {}),
    ("+447700900300", "Text line", "Text line", {}),
    ("+441632960160", "Partners", "Inside line", {}),
    (
        "4700",
        "Bridge telephone",
        "Port desk",
        {
            "port": "the bridge",
            "desk": "queue:Assistance",
            "office": "hours:",
            "mailbox": "mailbox:Night line",
        },
    ),
]

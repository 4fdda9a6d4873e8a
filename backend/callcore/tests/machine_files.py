"""What a machine's file may hold, by its standard: for files that are written."""

from xml.etree import ElementTree as Xml

from callcore.flow import scxml, voicexml
from callcore.flow.xml_names import NAME

LANG = "{http://www.w3.org/XML/1998/namespace}lang"
SCXML, VXML = f"{{{scxml.NAMESPACE}}}", f"{{{voicexml.NAMESPACE}}}"

#: What the elements of each standard may hold: their attributes, and the elements inside of them
#: (SCXML, section 3; VoiceXML 2.0, appendix O, with 2.1's data).
_EXECUTABLE = {"assign", "clear", "data", "exit", "goto", "if", "prompt", "reprompt"}
_ITEM = {"prompt", "property", "noinput", "nomatch", "filled"}
_SHAPES = {
    SCXML: {
        "scxml": ("version datamodel name initial", "state final"),
        "state": ("id", "onentry transition"),
        "final": ("id", "onentry"),
        "onentry": ("", "log"),
        "log": ("label expr", ""),
        "transition": ("event target", ""),
    },
    VXML: {
        "vxml": (f"version {LANG}", "var form"),
        "var": ("name expr", ""),
        "form": ("id", "var block field record"),
        "block": ("", _EXECUTABLE),
        "field": ("name type", _ITEM | {"option"}),
        "option": ("dtmf value", ""),
        "record": ("name beep maxtime dtmfterm", _ITEM),
        "property": ("name value", ""),
        "noinput": ("", _EXECUTABLE),
        "nomatch": ("", _EXECUTABLE),
        "filled": ("", _EXECUTABLE),
        "if": ("cond", _EXECUTABLE | {"elseif", "else"}),
        "elseif": ("cond", ""),
        "else": ("", ""),
        "prompt": (LANG, "audio value say-as"),
        "audio": ("src expr", ""),
        "value": ("expr", ""),
        "say-as": ("interpret-as", "value"),
        "goto": ("next", ""),
        "exit": ("namelist", ""),
        "assign": ("name expr", ""),
        "clear": ("namelist", ""),
        "reprompt": ("", ""),
        "data": ("name src namelist", ""),
    },
}


def _split(words):
    return set(words.split()) if isinstance(words, str) else words


def read(test, space, text):
    """A document and its ids, held to its standard as far as shapes, names and ids go."""
    root = Xml.fromstring(text)
    shapes = _SHAPES[space]
    for element in root.iter():
        attributes, inside = shapes[element.tag.removeprefix(space)]
        test.assertLessEqual(set(element.keys()), _split(attributes), element.tag)
        test.assertLessEqual({c.tag.removeprefix(space) for c in element}, _split(inside))
    ids = [e.get("id") for e in root.iter() if e.get("id")]
    test.assertEqual(len(ids), len(set(ids)))
    for identity in ids:
        test.assertRegex(identity, NAME)
    return root, set(ids)

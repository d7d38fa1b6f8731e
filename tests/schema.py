"""The MusicXML schema, for what is written to be held against."""

from functools import cache
from importlib.resources import files

from lxml import etree

# What the schema takes from two others that it fetches from the network; that much of them is enough.
_XLINK = b"""<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" targetNamespace="http://www.w3.org/1999/xlink">
<xs:attribute name="href" type="xs:anyURI"/><xs:attribute name="type" type="xs:string"/>
<xs:attribute name="role" type="xs:string"/><xs:attribute name="title" type="xs:string"/>
<xs:attribute name="show" type="xs:string"/><xs:attribute name="actuate" type="xs:string"/></xs:schema>"""
_XML = b"""<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" targetNamespace="http://www.w3.org/XML/1998/namespace">
<xs:attribute name="lang" type="xs:language"/><xs:attribute name="space" type="xs:NCName"/></xs:schema>"""


class _Local(etree.Resolver):
    def resolve(self, url: str, public_id: str, context: object) -> object:
        return self.resolve_string(_XLINK if "xlink" in url else _XML, context)


@cache
def _schema() -> etree.XMLSchema:
    parser = etree.XMLParser(no_network=True)
    parser.resolvers.add(_Local())
    text = files("musicxml").joinpath("generate_classes/musicxml_4_0.xsd").read_bytes()
    return etree.XMLSchema(etree.fromstring(text, parser))


def schema_complaints(text: str) -> list[str]:
    """What is wrong with a MusicXML text by the schema, a line each."""
    document = etree.fromstring(text.encode(), etree.XMLParser(load_dtd=False, no_network=True))
    schema = _schema()
    schema.validate(document)
    return [f"{error.line}: {error.message}" for error in schema.error_log]

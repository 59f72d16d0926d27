"""Tickets as help desks write them, in two languages with slips of the pen; their phrases are kept apart from the tables that ship."""

from __future__ import annotations

from dataclasses import dataclass
from random import Random

# What was reported, what was done; {} is a name, a room or a number.
BATTERY = [
    ("Notebook dies as soon as I unplug it, {}", "new battery put in, all good"),
    ("Akku fast leer nach 40 Minuten, Gerät {}", "Akku getauscht"),
    ("bottom cover is lifting, looks like the battery has swollen ({})", "swapped pack, old one to hazardous bin"),
    ("Laptop geht sofort aus wenn man den Stecker zieht", "neuer Akku verbaut"),
    ("Battery only lasts half an hour any more", "Replaced battery. {}"),
    ("Akku wird nur bis 60 % geladen", "Akku ersetzt, Gerät an {} zurück"),
    ("user says charge drops from 80 to 5 percent suddenly", "batt replaced"),
    ("Akku aufgebläht, Touchpad klickt nicht mehr", "Akku gewechselt, entsorgt"),
    ("Battery health 41 percent in the report", "fitted a new battery"),
    ("Notebook von {} hält keine Besprechung mehr durch", "Akku erneuert"),
]
SSD = [
    ("Laptop does not find Windows any more, {}", "SSD defective, exchanged and reinstalled"),
    ("Festplatte defekt laut Diagnose", "SSD getauscht, Image aufgespielt"),
    ("PC bleibt beim Starten hängen, kein Laufwerk gefunden", "Laufwerk ersetzt"),
    ("Drive reports bad blocks, {}", "drive swapped under warranty"),
    ("Rechner extrem langsam, SMART meldet Fehler", "Platte ausgetauscht"),
    ("Computer says no bootable device", "new ssd 512 fitted"),
    ("Dateien lassen sich nicht öffnen, Lesefehler", "SSD erneuert {}"),
]
MEMORY = [
    ("Blue screens several times a day, {}", "one memory module bad, replaced"),
    ("Gerät piept dreimal und startet nicht", "RAM-Riegel defekt, getauscht"),
    ("Zu wenig Speicher für CAD, bitte mehr RAM", "Arbeitsspeicher aufgerüstet auf 32 GB"),
    ("Only 8 of 16 GB shown", "dimm replaced"),
    ("Abstürze, Speichertest schlägt fehl", "Speichermodul ersetzt"),
]
FAN = [
    ("Lüfter dreht ständig auf voller Leistung, Raum {}", "Lüfter gereinigt, läuft wieder leise"),
    ("Fan makes a terrible noise", "fan replaced"),
    ("Notebook rattert wie ein Mofa", "Lüfter getauscht"),
    ("machine shuts down because of heat {}", "blower was blocked, new fan fitted"),
    ("Gerät wird sehr heiß und laut", "Lüfter ersetzt, Wärmeleitpaste neu"),
    ("Grinding sound from the left side", "exchanged the fan"),
]
KEYBOARD = [
    ("Kaffee über die Tastatur gekippt, {}", "Tastatur ersetzt"),
    ("Some keys do not respond", "keyboard replaced"),
    ("Taste E klemmt", "Tastatur getauscht"),
    ("spilled water over my laptop keyboard", "new keyboard"),
]
DISPLAY = [
    ("Bildschirm flackert, {}", "Displaykabel neu gesteckt"),
    ("Screen cracked after a fall", "panel replaced"),
    ("Display bleibt schwarz, extern geht", "Display getauscht"),
    ("pink stripes on the screen of {}", "LCD exchanged"),
]
OTHER = [
    ("Kennwort vergessen, Konto gesperrt ({})", "zurückgesetzt"),
    ("Cannot print to the 2nd floor", "printer queue restarted"),
    ("VPN disconnects every ten minutes", "client updated"),
    ("Outlook findet alte Mails nicht", "Profil neu angelegt"),
    ("Please install the CAD viewer for {}", "done"),
    ("Neue Maus gebraucht", "ausgegeben"),
    ("Docking station not recognised", "firmware of the dock updated"),
    ("Teams call without sound on headset", "headset exchanged"),
    ("Toner leer im Flur {}", "Toner bestellt"),
    ("Zugriff auf Netzlaufwerk Buchhaltung", "Berechtigung erteilt"),
    ("Need second monitor at desk {}", "delivered"),
    ("Neuer Mitarbeiter ab Montag: {}", "Konto angelegt"),
    ("Excel add-in crashes", "reinstalled"),
    ("Telefon klingelt nicht", "Anschluss getauscht"),
    ("WLAN im Besprechungsraum {} langsam", "Access Point neu gestartet"),
    ("Kamera in Teams schwarz", "Treiber aktualisiert"),
]
KINDS = {"battery": BATTERY, "ssd": SSD, "memory": MEMORY, "fan": FAN, "keyboard": KEYBOARD, "display": DISPLAY, "": OTHER}
SHARES = {"battery": 0.24, "ssd": 0.1, "memory": 0.06, "fan": 0.12, "keyboard": 0.06, "display": 0.07, "": 0.35}
NAMES = ["Haak", "Brill", "4.12", "R 207", "Orsen", "Line 3", "Tamm", "EG links", "Varga", "Kist"]


@dataclass(frozen=True)
class Drawn:
    """A ticket with the kind it is truly about, "" where it is about no part."""

    text: str
    done: str
    kind: str


def draw_tickets(count: int = 417, seed: int = 11) -> list[Drawn]:
    """Tickets drawn at random, one word in twenty-five misspelt."""
    dice = Random(seed)
    found = []
    for _ in range(count):
        kind = dice.choices(list(SHARES), list(SHARES.values()))[0]
        text, done = dice.choice(KINDS[kind])
        found.append(Drawn(_slips(text.format(dice.choice(NAMES)), dice), _slips(done.format(dice.choice(NAMES)), dice), kind))
    return found


def _slips(text: str, dice: Random) -> str:
    return " ".join(_slip(word, dice) if len(word) > 5 and dice.random() < 0.04 else word for word in text.split())


def _slip(word: str, dice: Random) -> str:
    place = dice.randrange(1, len(word) - 1)
    if dice.random() < 0.5:
        return word[:place] + word[place + 1 :]
    return word[:place] + word[place + 1] + word[place] + word[place + 2 :]

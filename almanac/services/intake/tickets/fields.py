"""What a list of tickets may say, with the words of three languages it stands under."""

from __future__ import annotations

from almanac.services.intake.columns import Field, said_as
from almanac.services.intake.machines.fields import FIELDS as OF_MACHINES

TAG = next(field for field in OF_MACHINES if field.name == "tag")
FIELDS = (
    TAG,
    Field("occurred_on", "day it was reported", said_as("""opened, opened on, created, created on, reported, reported on, date, day,
        ticket date, datum,
        erstellt, erstellt am, eroeffnet, gemeldet, gemeldet am,
        ouvert, ouvert le, cree le, signale le, date d ouverture"""),
        needed=True, day=True, alone=True),
    Field("text", "what was reported", said_as("""summary, description, subject, problem, complaint, issue, text, title, short description,
        beschreibung, betreff, kurzbeschreibung, problem, stoerung, meldung, fehlerbeschreibung, objet, probleme, panne, resume"""),
        needed=True),
    Field("done", "what was done", said_as("""resolution, solution, done, action, action taken, closing note, work done, fix, loesung,
        massnahme, erledigung, abschluss, behoben durch, taetigkeit, solution, resolution, travaux, intervention, action realisee""")),
    Field("ticket", "ticket number", said_as("""ticket, ticket number, ticket no, ticket id, number, id, case, incident, incident number,
        ticketnummer, ticket nr, vorgang, vorgangsnummer, fall, nr, numero, no ticket, demande""")),
    Field("status", "whether it is done", said_as("status, state, zustand, statut, etat")),
    Field("minutes", "minutes at the bench", said_as("""minutes, time spent, duration, effort, minuten, dauer, aufwand, duree, temps
        passe"""), amount=True),
)  # fmt: skip

"""Letters as mail programs and people make them: (what it is, the letter, what its writer said now). Common practice, no source; names and
words are made up. Used by test_letters."""

_Q = "> Is the ray badly hurt?\n> Please answer by four.\n>\n> Mara"
_P = "Is the ray badly hurt?\nPlease answer by four.\n\nMara"
_OWN = "It heals by itself.\n\nKeep the others away until Friday."
_SHORT = "No, it is not."


def _top(lead: str, quoted: str = _Q) -> str:
    return f"{_OWN}\n\n{lead}\n{quoted}"


#: What programs write above a quotation, by language; most lines as they stand, some broken as programs break them.
_LEADS = {
    "en": "On Wed, 25 Nov 2026 at 17:00, Mara Okafor <mara@brinewick.example> wrote:\n",
    "en, US": "On Nov 25, 2026, at 5:00 PM, Mara Okafor <mara@brinewick.example> wrote:\n",
    "en, broken": "On Wednesday, 25 November 2026 at 17:00:05 GMT, Mara Okafor\n<mara@brinewick.example> wrote:\n",
    "en, name first": "Mara Okafor <mara@brinewick.example> wrote on 25/11/2026 17:00:\n",
    "en, ISO": "2026-11-25 17:00 GMT+01:00 Mara Okafor <mara@brinewick.example>:\n",
    "de": "Am Mi., 25. Nov. 2026 um 17:00 Uhr schrieb Mara Okafor <mara@brinewick.example>:\n",
    "de, broken": "Am 25.11.2026 um 17:00 schrieb Mara Okafor\n<mara@brinewick.example>:\n",
    "de, name first": "Mara Okafor <mara@brinewick.example> schrieb am 25.11.2026 um 17:00 Uhr:\n",
    "de, perfect": "Am 25.11.2026 um 17:00 hat Mara Okafor <mara@brinewick.example> geschrieben:\n",
    "da": "Den ons. 25. nov. 2026 kl. 17.00 skrev Mara Okafor <mara@brinewick.example>:\n",
    "da, name first": "Mara Okafor skrev den 25. november 2026 kl. 17.00:\n",
    "sv": "Den ons 25 nov. 2026 kl 17:00 skrev Mara Okafor <mara@brinewick.example>:\n",
    "sv, date first": "25 nov. 2026 kl. 17:00 skrev Mara Okafor <mara@brinewick.example>:\n",
    "nb": "ons. 25. nov. 2026 kl. 17:00 skrev Mara Okafor <mara@brinewick.example>:\n",
    "nl": "Op wo 25 nov. 2026 om 17:00 schreef Mara Okafor <mara@brinewick.example>:\n",
    "nl, perfect": "Op 25 nov. 2026 om 17:00 heeft Mara Okafor <mara@brinewick.example> het volgende geschreven:\n",
    "fr": "Le mer. 25 nov. 2026 à 17:00, Mara Okafor <mara@brinewick.example> a écrit :\n",
    "fr, broken": "Le mercredi 25 novembre 2026 à 17:00:05 UTC+1, Mara Okafor\n<mara@brinewick.example> a\nécrit :\n",
    "es": "El mié, 25 nov 2026 a las 17:00, Mara Okafor (<mara@brinewick.example>) escribió:\n",
    "pt": "Em qua., 25 de nov. de 2026 às 17:00, Mara Okafor <mara@brinewick.example> escreveu:\n",
    "pt, older": "A 25/11/2026, às 17:00, Mara Okafor escreveu:\n",
    "it": "Il giorno mer 25 nov 2026 alle ore 17:00 Mara Okafor <mara@brinewick.example> ha scritto:\n",
    "it, shorter": "Il 25/11/26 17:00, Mara Okafor ha scritto:\n",
    "pl": "śr., 25 lis 2026 o 17:00 Mara Okafor <mara@brinewick.example> napisał(a):\n",
    "pl, older": "W dniu 25.11.2026 o 17:00, Mara Okafor pisze:\n",
    "pl, oldest": "Dnia 25 listopada 2026 17:00 Mara Okafor <mara@brinewick.example> napisał(a):\n",
}
#: What programs that do not quote put above what they answer.
_HEADS = {
    "en": "From: Mara Okafor <mara@brinewick.example>\nSent: Wednesday, 25 November 2026 17:00\nTo: Sam Whitlock\nSubject: The ray",
    "en, date": "From: Mara Okafor\nDate: Wednesday, 25 November 2026 at 17:00\nTo: Sam Whitlock\nSubject: The ray",
    "en, bold": "*From:* Mara Okafor <mara@brinewick.example>\n*Sent:* Wednesday, 25 November 2026 17:00\n*To:* Sam Whitlock\n*Subject:* The ray",
    "de": "Von: Mara Okafor\nGesendet: Mittwoch, 25. November 2026 17:00\nAn: Sam Whitlock\nCc: Ilse\nBetreff: Der Rochen",
    "da": "Fra: Mara Okafor\nSendt: 25. november 2026 17:00\nTil: Sam Whitlock\nEmne: Rokken",
    "sv": "Från: Mara Okafor\nSkickat: den 25 november 2026 17:00\nTill: Sam Whitlock\nÄmne: Rockan",
    "nb": "Fra: Mara Okafor\nSendt: onsdag 25. november 2026 17:00\nTil: Sam Whitlock\nEmne: Rokka",
    "nl": "Van: Mara Okafor\nVerzonden: woensdag 25 november 2026 17:00\nAan: Sam Whitlock\nOnderwerp: De rog",
    "fr": "De : Mara Okafor\nEnvoyé : mercredi 25 novembre 2026 17:00\nÀ : Sam Whitlock\nObjet : La raie",
    "es": "De: Mara Okafor\nEnviado: miércoles, 25 de noviembre de 2026 17:00\nPara: Sam Whitlock\nAsunto: La raya",
    "pt": "De: Mara Okafor\nEnviada: quarta-feira, 25 de novembro de 2026 17:00\nPara: Sam Whitlock\nAssunto: A raia",
    "it": "Da: Mara Okafor\nInviato: mercoledì 25 novembre 2026 17:00\nA: Sam Whitlock\nOggetto: La razza",
    "pl": "Od: Mara Okafor\nWysłano: środa, 25 listopada 2026 17:00\nDo: Sam Whitlock\nTemat: Płaszczka",
}
_DIVIDERS = {
    "en": "-----Original Message-----", "de": "-----Ursprüngliche Nachricht-----", "da": "-----Oprindelig meddelelse-----",
    "sv": "-----Ursprungligt meddelande-----", "nb": "-----Opprinnelig melding-----", "nl": "-----Oorspronkelijk bericht-----",
    "fr": "-----Message d'origine-----", "es": "-----Mensaje original-----", "pt": "-----Mensagem original-----",
    "it": "-----Messaggio originale-----", "pl": "-----Oryginalna wiadomość-----", "en, forwarded": "---------- Forwarded message ---------",
    "en, phone": "-------- Original message --------",
}  # fmt: skip
#: What a telephone says below, by language.
_SENT_FROM = {
    "en": "Sent from my phone", "de": "Von meinem Telefon gesendet", "da": "Sendt fra min telefon", "sv": "Skickat från min telefon",
    "nb": "Sendt fra telefonen min", "nl": "Verzonden vanaf mijn telefoon", "fr": "Envoyé de mon téléphone", "es": "Enviado desde mi teléfono",
    "pt": "Enviado do meu telefone", "it": "Inviato dal mio telefono", "pl": "Wysłane z mojego telefonu",
}  # fmt: skip
_DISCLAIMER = (
    "This e-mail and any attachments are confidential and intended solely for the addressee. If you are not the intended recipient,"
    " please notify the sender and delete it."
)
_DISCLAIMER_DE = (
    "Diese E-Mail enthält vertrauliche Informationen. Wenn Sie nicht der richtige Adressat sind, informieren Sie bitte sofort den Absender"
    " und vernichten Sie diese E-Mail."
)
_EN = _LEADS["en"].rstrip("\n")

LETTERS: list[tuple[str, str, str]] = [
    *((f"above, lead-in {name}", _top(lead.rstrip("\n")), _OWN) for name, lead in _LEADS.items()),
    *((f"above, header block {name}", f"{_OWN}\n\n{heads}\n\n{_P}", _OWN) for name, heads in _HEADS.items()),
    *((f"above, divider {name}", f"{_OWN}\n\n{line}\n{_HEADS['en']}\n\n{_P}", _OWN) for name, line in _DIVIDERS.items()),
    *((f"above, sent from {name}", f"{_OWN}\n\n{said}\n\n{_EN}\n\n{_Q}", _OWN) for name, said in _SENT_FROM.items()),
    *((f"sent from below the quotation {name}", f"{_OWN}\n\n{_EN}\n{_Q}\n\n{said}", _OWN) for name, said in _SENT_FROM.items()),
    ("above, a line of underscores and a header block", f"{_OWN}\n\n{'_' * 32}\n{_HEADS['en']}\n\n{_P}", _OWN),
    ("above, quoted without a lead-in", f"{_OWN}\n\n{_Q}", _OWN),
    ("above, the lead-in quoted too", f"{_OWN}\n\n> {_EN}\n>\n{_Q}", _OWN),
    ("above, a short lead-in", f"{_OWN}\n\nMara Okafor wrote:\n{_Q}", _OWN),
    ("above, quoted twice over", f"{_OWN}\n\n{_EN}\n> On Tue, 24 Nov 2026 at 9:00, Sam wrote:\n>> Hello\n> Hello Sam", _OWN),
    ("above, a signature by RFC 3676", f"{_OWN}\n\n-- \nSam Whitlock\nCurator, +44 20 555 0100\n\n{_EN}\n{_Q}", _OWN),
    ("above, a signature below the quotation", f"{_OWN}\n\n{_EN}\n{_Q}\n\n-- \nSam Whitlock\nCurator", _OWN),
    ("above, a plain signature below the quotation", f"{_OWN}\n\n{_EN}\n{_Q}\n\n--\nSam Whitlock\nCurator", _OWN),
    ("above, a disclaimer below the quotation", f"{_OWN}\n\n{_EN}\n{_Q}\n\n{_DISCLAIMER}", _OWN),
    ("above, a German disclaimer below the quotation", f"{_OWN}\n\n{_EN}\n{_Q}\n\n{_DISCLAIMER_DE}", _OWN),
    ("above, signature and disclaimer below the quotation", f"{_OWN}\n\n{_EN}\n{_Q}\n\n-- \nSam\n\n{_DISCLAIMER}", _OWN),
    ("a signature and nothing quoted", f"{_OWN}\n-- \nSam Whitlock", _OWN),
    ("a plain signature and nothing quoted", f"{_OWN}\n\n--\nSam Whitlock\nCurator\nwww.clinic.example", _OWN),
    ("sent from a telephone and nothing quoted", f"{_SHORT}\n\nSent from my phone", _SHORT),
    ("a disclaimer and nothing quoted", f"{_OWN}\n\n{_DISCLAIMER}", _OWN),
    ("below", f"{_EN}\n{_Q}\n\n{_OWN}", _OWN),
    ("below, without a lead-in", f"{_Q}\n\n{_OWN}", _OWN),
    ("below, with a signature", f"{_EN}\n{_Q}\n\n{_OWN}\n\n-- \nSam Whitlock", _OWN),
    ("below, sent from a telephone", f"{_EN}\n{_Q}\n\n{_SHORT}\n\nSent from my phone", _SHORT),
    ("between", "> Is it bad?\n\nNo.\n\n> When?\n\nTomorrow.", "> Is it bad?\n\nNo.\n\n> When?\n\nTomorrow."),
    ("between, with a lead-in", f"{_EN}\n> Is it bad?\n\nNo.\n\n> When?\n\nTomorrow.", f"{_EN}\n> Is it bad?\n\nNo.\n\n> When?\n\nTomorrow."),
    ("above and between", f"See below.\n\n{_EN}\n> Is it bad?\nNo, it is not.\n> When?\nSoon.", f"See below.\n\n{_EN}\n> Is it bad?\nNo, it is not.\n> When?\nSoon."),
    ("between, with a signature", "> Is it bad?\n\nNo.\n\n> When?\n\nTomorrow.\n-- \nSam", "> Is it bad?\n\nNo.\n\n> When?\n\nTomorrow."),
    ("above and below", f"Thanks.\n\n{_EN}\n{_Q}\n\nOne more thing: call me.", f"Thanks.\n\n{_EN}\n{_Q}\n\nOne more thing: call me."),
    ("nothing quoted", _OWN, _OWN),
    ("only a quotation", "> only a quotation", "> only a quotation"),
    ("own words that look like a lead-in", "On Monday we wrote:\nnothing at all", "On Monday we wrote:\nnothing at all"),
    ("own words that look like a header", "From: here to there\nit is two hours", "From: here to there\nit is two hours"),
    ("own words: hours", "From 10 am to 4 pm we feed her.\nTo be sure, call.", "From 10 am to 4 pm we feed her.\nTo be sure, call."),
    ("own words: a route in Spanish", "De: Madrid\nPara: Barcelona\nson dos horas.", "De: Madrid\nPara: Barcelona\nson dos horas."),
    ("own words: a rule between two parts", "First part.\n--\nThe second part is a good deal longer than any signature, and says why she must be kept apart.\nIt goes on.", "First part.\n--\nThe second part is a good deal longer than any signature, and says why she must be kept apart.\nIt goes on."),
    ("own words: underscores to fill in", "Please fill in:\n____________________\nand send it back.", "Please fill in:\n____________________\nand send it back."),
    ("own words: a line of hyphens", "Dose\n----------\n5 ml twice a day", "Dose\n----------\n5 ml twice a day"),
    ("own words about telephones", "I sent it from my phone yesterday and it came back.", "I sent it from my phone yesterday and it came back."),
    ("own words about what is confidential", "Her file is confidential.\nAsk the clinic for the e-mail with it.", "Her file is confidential.\nAsk the clinic for the e-mail with it."),
    ("own words: larger than", "> 5 ml is too much.\nGive 3.", "> 5 ml is too much.\nGive 3."),
    ("own words that end in a colon", "What I wrote on 25 November 2026 still holds:\nkeep her apart.", "What I wrote on 25 November 2026 still holds:\nkeep her apart."),
    ("own words: a list with hyphens", "- rest\n- water\n- no feeding", "- rest\n- water\n- no feeding"),
    ("own words: a time before a colon", "Come on 2026-11-25 17:00:\nthe clinic is open then.", "Come on 2026-11-25 17:00:\nthe clinic is open then."),
]  # fmt: skip

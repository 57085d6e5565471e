"""Who writes in the demo: names that go together, each as their owner shows them. All invented. Used by demo.stories."""

import random

#: First and family names by language; families are not mixed across them more than life mixes them.
NAMES: dict[str, tuple[str, str]] = {
    "en": (
        "Petra Jonas Rosa Amir Freya Imogen Callum Nadia Yusuf Clara Ibrahim Elsa Joon Priya Kofi Leonie Noemi Aiko Milan Tamsin Rory Bridget"
        " Declan Mabel Otis Hattie Idris Maeve Callista Fergus Winnie Desmond Thandi Ravi Anneke Wesley Beryl Colm Dilys Ezra Fenella Gideon"
        " Harriet Ivor Jocelyn Keziah Lachlan Marnie Nuala Osman Pearl Quentin Rhona Silas Tabitha Una Verity Wilf Xanthe Zadie",
        "Adebayo Okoye Tanaka Banik Castell Ashdown Birtle Copperthwaite Dunmore Eastleigh Farrow Garside Hollis Inchbald Jessop Kettering Larkham"
        " Maddox Nethercott Oakes Pemberley Quaife Rushton Sallow Thackray Underhill Varley Wickens Yardley Abara Chaudry Mensah Nwosu Pillai Rahimi"
        " Sato Tembo Vance Whitcombe Brackley Crowther Dabney Ellery Fairlie Gorse Haddon Isley Jellicoe Kerrich Lowther Merriman Northcote Ollerton"
        " Penrose Ridley Stannard Tolliver",
    ),
    "de": (
        "Jonas Greta Bernd Leonie Anke Dieter Frauke Gesa Hannes Ilka Jörg Katrin Lutz Maike Nele Ole Rieke Sönke Tilda Uwe Wiebke Volker Sabine"
        " Torben Marlies",
        "Weyer Krüger Bauer Richter Vogt Albers Brinkmann Carstens Dierks Eggers Feddersen Gerdes Hinrichs Iwersen Jessen Kröger Lührs Matthiesen"
        " Nissen Oltmanns Petersen Rathje Siebert Thode Wulff",
    ),
    "da": (
        "Freya Hanne Asger Dorte Emil Signe Viggo Tove Henrik Sven Anker Birgitte Carl Ditte Esben Gitte Holger Inger Jesper Kirsten Lasse Mette"
        " Niels Pernille Rasmus Søren Trine Ulla Villads Åse",
        "Lindqvist Holm Madsen Rask Sørby Haugen Thorsen Kjær Nyholm Stenberg Bang Dalgaard Enevoldsen Frandsen Gram Hvid Iversen Juhl Krogh Lund"
        " Mikkelsen Nørgaard Overgaard Poulsen Ravn Skov Toft Ulrich Vinther Winther",
    ),
    "es": (
        "Rosa Diego Tomás Ines Lucía Rafael Pilar Marta Hugo Aitor Begoña Carmen Dolores Emilio Fermín Gema Ignacio Jimena Lorenzo Maite Nuria"
        " Paloma Ramiro Sofía Valentín",
        "Marin Esteban Villalba Ortega Salas Ibarra Aguirre Barrientos Cervera Domínguez Echevarría Figueroa Galindo Herrero Izquierdo Llorente"
        " Montalbán Navarro Olmedo Peñalver Quiroga Rebollo Sanchís Tejedor Urrutia",
    ),
    "fr": (
        "Camille Agnes Odile Anouk Clara Noemi Luca Bastien Capucine Delphine Étienne Fabienne Gaëlle Hervé Irène Joël Karine Loïc Margaux Nicolas"
        " Océane Pascal Quentine Rémi Solène",
        "Ferrand Dufour Petit Leclair Moreau Fabre Aubertin Beaufils Chastain Delorme Estampes Fontenay Guérin Hamelin Joubert Kersaint Lambertin"
        " Marchand Noirot Ollivier Perrault Quesnel Rivière Sauvage Tisserand",
    ),
    "pl": (
        "Piotr Wiktoria Nadia Marek Kasia Zofia Matteo Agata Bartek Celina Dorota Edyta Filip Grażyna Halina Iwona Jarek Kinga Lech Magda Natalia"
        " Oskar Patryk Renata Sylwia",
        "Kowal Nowicka Novak Zielinska Wrona Gorski Adamczyk Bielak Czajka Dudek Fijał Grabowska Herman Jasiński Kaleta Lis Mazurek Niemiec Olszak"
        " Pietrzak Rogala Sikora Tomczak Urban Wilk",
    ),
}
#: What people call themselves who give no name.
NICKNAMES = [
    "tidepool_tess",
    "harbour.hugo",
    "kelpfan_9",
    "nordlys.nina",
    "thebriny_b",
    "saltyaunt",
    "ray_watcher",
    "wetsocks_will",
    "mollusc.mum",
    "bookedtwice",
    "penguinpete",
    "schoolrun_sue",
    "lanternfishh",
    "quietcove",
    "driftwood_dan",
    "mrs.puddle",
    "lowtide_lou",
    "gullible.gull",
    "herring_heart",
    "twokidsonepram",
    "cod.almighty",
    "barnacle_bea",
    "slowboat_sam",
    "mudlark77",
    "otterly.me",
    "nightferry_nik",
    "shrimp.on.tour",
    "ebb_and_flo",
    "anchovy_andy",
    "pebble.pockets",
    "mermaid.manager",
    "foghorn_fred",
    "ferrygirl21",
    "grumpy.limpet",
    "saltstain",
    "seaglass.sally",
    "kelpie_kim",
    "turbot_tim",
    "the.real.cod",
    "raincoat_ruth",
    "sandwich.thief",
    "waves_at_whales",
    "hollow.shell",
    "brackish.bob",
    "jetty_jo",
    "lighthouse.lena",
    "tangled_net",
    "ooze.and.aahs",
    "drizzle_dee",
    "urchin_ulla",
    "plankton.pete",
    "mussel.memory",
    "bilge_bill",
    "sprat.not.splat",
    "snail_mail_mia",
    "eel.good.inc",
    "gannet_gav",
    "brine.time",
    "port_and_star.b",
    "dock_of_the_may",
    "wading.room",
    "outward.squid",
    "puffin_phil",
    "windy.wanda",
    "sole.survivor",
    "flotsam.fi",
    "keel_over_kev",
    "splash.dad",
    "tentacle_tina",
    "reef.relief",
]
#: How often somebody who is known on a network writes again about what people come back for.
COMES_BACK = 0.22


class Crowd:
    """People on the networks, everybody with one name on each; nobody is taken for another by chance."""

    def __init__(self, dice: random.Random) -> None:
        self._dice = dice
        self._taken: set[str] = set()
        self._nicknames: dict[str, list[str]] = {}
        self._regulars: dict[str, list[dict[str, object]]] = {}

    def find(self, network: str, language: str, *, comes_back: bool) -> dict[str, object]:
        """Somebody new there, or one of its regulars."""
        regulars = self._regulars.setdefault(network, [])
        if comes_back and len(regulars) > 8 and self._dice.random() < COMES_BACK:
            return self._dice.choice(regulars)
        actor = self._make(network, language)
        if comes_back and len(regulars) < 30:
            regulars.append(actor)
        return actor

    def _make(self, network: str, language: str) -> dict[str, object]:
        left = self._nicknames.setdefault(network, self._dice.sample(NICKNAMES, len(NICKNAMES)))
        if left and language == "en" and network in ("quillet", "loopreel", "pixfern") and self._dice.random() < 0.25:
            handle = left.pop()
            return {"handle": handle, "name": handle, "reach": self._draw_reach(handle)}
        firsts, lasts = (names.split() for names in NAMES[language])
        for _ in range(400):
            first, last = self._dice.choice(firsts), self._dice.choice(lasts)
            if f"{first} {last}" not in self._taken:
                break
        self._taken.add(f"{first} {last}")
        handle, name = self._dice.choices(
            [
                (f"{first}.{last}", f"{first} {last}"),
                (f"{first[0]}{last}", f"{first} {last}"),
                (f"{last}_{first}", f"{first} {last[0]}."),
                (f"{first}{self._dice.randint(61, 99)}", f"{first} {last}"),
                (f"{first}.{last}", first.lower()),
                (f"familie.{last}" if language in ("de", "da") else f"the.{last}s", f"{first} {last}"),
            ],
            [10, 3, 2, 3, 1, 1],
        )[0]
        return {"handle": handle.lower(), "name": name, "reach": self._draw_reach(first + last)}

    @staticmethod
    def _draw_reach(of: str) -> int:
        return min(99, int(random.Random(of).paretovariate(1.6) * 4))

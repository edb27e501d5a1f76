package dastur.demo;

import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.Rota;
import dastur.core.people.RotaKey;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.time.CalendarKey;
import dastur.core.time.Span;
import dastur.core.time.WorkingCalendar;
import dastur.core.time.WorkingCalendar.Hours;
import dastur.store.Organisation;
import java.time.DayOfWeek;
import java.time.LocalDate;
import java.time.LocalDateTime;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.Arrays;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Set;

/** People, groups, services and CIs of Kestrel Sound Ferries. All made up. */
final class DemoWorld {
    private static final ZoneId OSLO = ZoneId.of("Europe/Oslo");

    private final Organisation organisation;

    DemoWorld(Organisation organisation) {
        this.organisation = organisation;
    }

    void build() {
        calendars();
        people();
        groups();
        services();
        rotas();
        organisation.putFields(new FieldCatalogue(
                List.of(
                        Field.of("lockNumber", "Lock number", FieldType.TEXT),
                        Field.of("tillNumber", "Till number", FieldType.TEXT),
                        Field.of("firstReceipt", "First receipt", FieldType.TEXT)),
                List.of(
                        Field.of("lane", "Lane", FieldType.TEXT),
                        Field.of("till", "Till number", FieldType.TEXT),
                        Field.of("firmware", "Firmware", FieldType.TEXT),
                        Field.of("model", "Model", FieldType.TEXT),
                        new Field("size", "Size", FieldType.CHOICE, false, List.of("small", "middle", "large"), null)),
                Map.of("lane", List.of("gate"), "till", List.of("kiosk"), "size", List.of("machine"))));
        new Cis().build();
    }

    // --- calendars

    private void calendars() {
        Set<LocalDate> holidays = Set.of(
                LocalDate.of(2026, 12, 24),
                LocalDate.of(2026, 12, 25),
                LocalDate.of(2026, 12, 26),
                LocalDate.of(2027, 1, 1),
                LocalDate.of(2026, 5, 1),
                LocalDate.of(2027, 5, 1),
                LocalDate.of(2026, 5, 17),
                LocalDate.of(2027, 5, 17));
        organisation.putCalendar(calendar(
                "pier", "Pier hours", DayOfWeek.values(), "05:00", "23:30", Set.of(LocalDate.of(2026, 12, 25))));
        organisation.putCalendar(calendar(
                "office",
                "Office hours",
                new DayOfWeek[] {
                    DayOfWeek.MONDAY, DayOfWeek.TUESDAY, DayOfWeek.WEDNESDAY, DayOfWeek.THURSDAY, DayOfWeek.FRIDAY
                },
                "08:00",
                "17:00",
                holidays));
        organisation.setDefaultCalendar(new CalendarKey("office"));
    }

    private static WorkingCalendar calendar(
            String key, String name, DayOfWeek[] days, String from, String to, Set<LocalDate> holidays) {
        Map<DayOfWeek, List<Hours>> hours = new EnumMap<>(DayOfWeek.class);
        Arrays.stream(days).forEach(d -> hours.put(d, List.of(new Hours(LocalTime.parse(from), LocalTime.parse(to)))));
        return new WorkingCalendar(new CalendarKey(key), name, OSLO, hours, holidays);
    }

    // --- people

    private void people() {
        person("ines", "Ines Okafor-Lind", Role.PROCESS_OWNER, Role.AGENT);
        person("teo", "Teo Marchetti", Role.AGENT);
        person("priya", "Priya Lund", Role.AGENT);
        person("runa", "Runa Feld", Role.AGENT);
        person("ada", "Ada Brandvold", Role.AGENT);
        person("sem", "Sem Aldous", Role.AGENT);
        person("jonas", "Jonas Achterberg", Role.AGENT);
        person("halvard", "Halvard Quist", Role.ADMINISTRATOR);
        person("oskar", "Oskar Lindqvist-Baye", Role.AUDITOR);
        person("pavel", "Pavel Ingstad", Role.REQUESTER);
        managed("mira", "Mira Solheim", "pavel", Role.REQUESTER);
        person("dario", "Dario Venn", Role.AGENT);
        person("noor", "Noor Haddad-Ekman", Role.AGENT);
        person("kofi", "Kofi Strand", Role.AGENT);
        person("liv", "Liv Tamura", Role.AGENT);
        person("marek", "Marek Dahlby", Role.AGENT);
        person("aino", "Aino Peralta", Role.AGENT);
        person("tomas", "Tomas Ravn", Role.AGENT);
        person("zofia", "Zofia Hellmark", Role.AGENT);
        person("emil", "Emil Castellan", Role.REQUESTER);
        managed("greta", "Greta Nwosu", "pavel", Role.REQUESTER);
        person("saga", "Saga Moreau", Role.REQUESTER);
        person("birk", "Birk Adeyemi", Role.AGENT);
        person("yara", "Yara Holst", Role.AGENT);
    }

    private void person(String id, String name, Role... roles) {
        organisation.putPerson(new Person(new PersonId(id), name, id + "@kestrel.example", Set.of(roles), true), null);
    }

    private void managed(String id, String name, String manager, Role... roles) {
        organisation.putPerson(
                new Person(new PersonId(id), name, id + "@kestrel.example", Set.of(roles), true, new PersonId(manager)),
                null);
    }

    private void groups() {
        group("service-desk", "Service desk", "ada", "noor", "liv");
        group("pier-technicians", "Pier technicians", "runa", "kofi", "marek");
        group("network-radio", "Network & radio", "sem", "tomas");
        group("booking-platform", "Booking platform", "dario", "zofia");
        group("crew-systems", "Crew systems", "aino", "birk");
        group("suppliers-liaison", "Suppliers liaison", "jonas", "yara", "ada");
        group("duty-managers", "Duty managers", "teo", "priya");
        group("change-board", "Change board", "ines", "teo", "sem", "dario");
        group("crew-office", "Crew office", "emil");
        group("passengers-desk", "Passengers’ desk", "mira", "greta");
        group("management", "Management", "pavel");
    }

    private void group(String id, String name, String... members) {
        organisation.putGroup(new Group(
                new GroupId(id), name, Arrays.stream(members).map(PersonId::new).toList()));
    }

    // --- rotas

    /** Duty managers and network without a hole; the platform's nobody has on Sunday mornings: a gap to find. */
    private void rotas() {
        LocalDateTime monday = LocalDateTime.of(2026, 10, 5, 8, 0);
        rota("duty", "Duty manager", turns(monday, 7, Map.of(), "teo", "priya"), turns(monday, 7, Map.of(), "pavel"));
        rota("network", "Network on call", turns(monday, 7, Map.of(), "sem", "tomas"));
        Map<DayOfWeek, List<Hours>> mostly = new EnumMap<>(DayOfWeek.class);
        for (DayOfWeek day : DayOfWeek.values()) {
            LocalTime from = day == DayOfWeek.SUNDAY ? LocalTime.NOON : LocalTime.MIDNIGHT;
            mostly.put(day, List.of(new Hours(from, LocalTime.MIDNIGHT)));
        }
        rota("platform", "Platform on call", turns(monday, 3, mostly, "dario", "zofia"));
    }

    private static Rota.Layer turns(
            LocalDateTime start, int days, Map<DayOfWeek, List<Hours>> hours, String... people) {
        return new Rota.Layer(Arrays.stream(people).map(PersonId::new).toList(), start, days, hours);
    }

    private void rota(String key, String name, Rota.Layer... levels) {
        organisation.putRota(new Rota(
                new RotaKey(key),
                name,
                OSLO,
                Arrays.stream(levels).map(l -> new Rota.Level(List.of(l))).toList(),
                List.of()));
    }

    // --- services

    private void services() {
        service("departure-boards", "Departure boards", true, "pier-technicians", "pier");
        service("ticket-gates", "Ticket gates", true, "pier-technicians", "pier");
        service("booking-site", "Booking site", true, "booking-platform", "pier");
        service("crew-rostering", "Crew rostering", false, "crew-systems", "office");
        service("berth-sensors", "Berth sensors", false, "network-radio", "pier");
        service("passenger-wifi", "Passenger Wi-Fi", true, "network-radio", "pier");
        service("office-tools", "Office tools", false, "service-desk", "office");
    }

    private static final Map<String, Service.Promise> PASSENGER_TARGETS = Map.of(
            "P1", promise("10 min", "2 h"),
            "P2", promise("30 min", "6 h"),
            "P3", promise("2 working h", "2 working days"),
            "P4", promise("1 working days", "10 working days"));

    private static final Map<String, Service.Promise> OFFICE_TARGETS = Map.of(
            "P1", promise("30 min", "8 working h"),
            "P2", promise("2 working h", "2 working days"),
            "P3", promise("1 working days", "5 working days"));

    private static Service.Promise promise(String respond, String restore) {
        return new Service.Promise(Span.parse(respond), Span.parse(restore));
    }

    private void service(String id, String name, boolean passengers, String owner, String calendar) {
        organisation.putService(new Service(
                new ServiceId(id),
                name,
                passengers,
                new GroupId(owner),
                new CalendarKey(calendar),
                passengers ? PASSENGER_TARGETS : OFFICE_TARGETS));
    }

    /** About 120 configuration items with addresses and relations. */
    private final class Cis {
        private int address = 10;

        void build() {
            pier("ALD", "Alder Pier", 14, 4);
            pier("GNQ", "Gannet Quay", 12, 4);
            pier("NSL", "North Slip", 8, 2);
            for (int i = 1; i <= 12; i++) {
                String site = i <= 5 ? "ALD" : i <= 9 ? "GNQ" : "NSL";
                ci(
                        "kiosk-%02d".formatted(i),
                        "Ticket kiosk %d".formatted(i),
                        "kiosk",
                        "ticket-gates",
                        site,
                        "pier-technicians",
                        i == 1 ? "in use" : "planned",
                        Map.of("model", "Halyard K2"));
            }
            for (int i = 1; i <= 4; i++) {
                ci(
                        "book-web-" + i,
                        "Booking web node " + i,
                        "server",
                        "booking-site",
                        i <= 2 ? "MDR" : "UDR",
                        "booking-platform",
                        "in use",
                        Map.of());
            }
            for (int i = 1; i <= 2; i++) {
                ci(
                        "book-db-" + i,
                        "Booking database " + i,
                        "database",
                        "booking-site",
                        i == 1 ? "MDR" : "UDR",
                        "booking-platform",
                        "in use",
                        Map.of());
            }
            for (int i = 1; i <= 4; i++) {
                relate("book-web-" + i, "runs on", "book-db-1");
            }
            relate("book-db-1", "copies to", "book-db-2");
            for (int i = 1; i <= 3; i++) {
                ci(
                        "berth-gw-" + i,
                        "Berth gateway " + i,
                        "gateway",
                        "berth-sensors",
                        List.of("ALD", "GNQ", "NSL").get(i - 1),
                        "network-radio",
                        "in use",
                        Map.of());
            }
            ci("roster-1", "Rostering server", "server", "crew-rostering", "UDR", "crew-systems", "in use", Map.of());
            ci(
                    "dns-kestrel",
                    "DNS zone kestrel.example",
                    "zone",
                    "booking-site",
                    "MDR",
                    "network-radio",
                    "in use",
                    Map.of());
            for (int i = 1; i <= 4; i++) {
                ci(
                        "core-sw-" + i,
                        "Core switch " + i,
                        "switch",
                        "office-tools",
                        i <= 2 ? "MDR" : "UDR",
                        "network-radio",
                        "in use",
                        Map.of());
            }
            for (int i = 1; i <= 12; i++) {
                ci(
                        "wifi-%02d".formatted(i),
                        "Wi-Fi access point " + i,
                        "access point",
                        "passenger-wifi",
                        List.of("ALD", "GNQ", "NSL").get(i % 3),
                        "network-radio",
                        "in use",
                        Map.of());
            }
            for (int i = 1; i <= 24; i++) {
                ci(
                        "laptop-%02d".formatted(i),
                        "Laptop " + i,
                        "laptop",
                        "office-tools",
                        "HQ",
                        "service-desk",
                        "in use",
                        Map.of("model", "Tern 14"));
            }
        }

        private void pier(String site, String name, int boards, int gates) {
            ci(
                    site + "-GW1",
                    "Pier gateway at " + name,
                    "gateway",
                    "departure-boards",
                    site,
                    "network-radio",
                    "in use",
                    Map.of("firmware", "7.2.1"));
            for (int i = 1; i <= boards; i++) {
                String id = "%s-%02d".formatted(site, i);
                ci(
                        id,
                        "Board %d at %s".formatted(i, name),
                        "board",
                        "departure-boards",
                        site,
                        "pier-technicians",
                        "in use",
                        Map.of("model", "Lumen 42", "firmware", "4.11"));
                relate(id, "runs on", site + "-GW1");
            }
            for (int i = 1; i <= gates; i++) {
                String id = site + "-G" + i;
                ci(
                        id,
                        "Gate %d at %s".formatted(i, name),
                        "gate",
                        "ticket-gates",
                        site,
                        "pier-technicians",
                        "in use",
                        Map.of("lane", "open", "model", "Turnstone 3", "firmware", "2.8"));
                relate(id, "runs on", site + "-GW1");
            }
        }

        private void ci(
                String id,
                String name,
                String kind,
                String service,
                String site,
                String owner,
                String life,
                Map<String, Object> attributes) {
            int n = address++;
            organisation.putCi(new ConfigurationItem(
                    new CiId(id),
                    name,
                    kind,
                    new ServiceId(service),
                    site,
                    "10.30." + n / 200 + "." + (n % 200 + 10),
                    new GroupId(owner),
                    life,
                    attributes));
        }

        private void relate(String from, String relation, String to) {
            organisation.relate(new CiId(from), relation, new CiId(to));
        }
    }
}

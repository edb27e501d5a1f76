package dastur.demo;

import dastur.core.people.PersonId;
import dastur.core.ticket.ServiceId;
import dastur.store.KnownAnswers;
import dastur.store.KnownAnswers.KnownAnswer;
import org.jspecify.annotations.Nullable;

/** What the demo's service desk has been asked before. */
final class DemoAnswers {
    private final KnownAnswers known;

    DemoAnswers(KnownAnswers known) {
        this.known = known;
    }

    void build() {
        answer(
                "wifi-guest",
                "How do guests get onto the passenger Wi-Fi?",
                "Choose “Kestrel passengers” and accept the terms on the page that opens. If no page opens, go to"
                        + " wifi.kestrel.example. Guests need no password.",
                "passenger-wifi",
                "Pier handbook, page 12",
                "sem",
                7);
        answer(
                "printer-crew",
                "The crew room printer prints nothing. What can I try?",
                "Open the left door, take the paper out, close it again. If the light stays red, print on the printer of the"
                        + " harbour office and tell us.",
                "office-tools",
                "Service desk, checked in October",
                "ada",
                12);
        answer(
                "berth-drawings",
                "Where do I find drawings of the berths?",
                "Harbour office, shelf “Berths”. Contractors ask the harbour office, which gives what they need for a limited"
                        + " time.",
                null,
                "Harbour office",
                "pavel",
                3);
        answer(
                "roster-missing",
                "My roster shows no shifts for next week.",
                "Rosters are published on Thursdays at noon. If yours is still empty on Friday, ask for help here and name"
                        + " your crew.",
                "crew-rostering",
                "Crew office",
                "aino",
                21);
    }

    private void answer(
            String id,
            String question,
            String answer,
            @Nullable String service,
            String source,
            String keeper,
            int helped) {
        known.put(
                null,
                new KnownAnswer(
                        id,
                        question,
                        answer,
                        service == null ? null : new ServiceId(service),
                        source,
                        null,
                        new PersonId(keeper),
                        helped));
    }
}

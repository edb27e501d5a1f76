package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.ticket.CiId;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.TermsOfUse;
import dastur.server.App;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Who answers for an action, who may use it and where (M5, N86). */
final class TermsRoutes {
    private static final int MOST_NAMED = 50;
    private static final int LONGEST_SITE = 80;
    /** So long before it is due a keeper is asked to look again. */
    private static final Duration ASKED_BEFORE = Duration.ofDays(14);

    /** What is set; what is null or empty limits nothing. */
    record TermsBody(
            @Nullable PersonId keeper,
            @Nullable List<GroupId> groups,
            @Nullable List<ServiceId> services,
            @Nullable List<String> sites,
            @Nullable Integer tellAfter,
            @Nullable Integer renewMonths) {}

    /**
     * @param renewBy by when its keeper is to look at it again; null for never
     * @param mayChange whether whoever asks may change the action and these
     * @param canKeep who could keep it
     */
    record TermsView(TermsOfUse terms, @Nullable Instant renewBy, boolean mayChange, List<PersonId> canKeep) {}

    /** An action to look at again. */
    record ToRenew(ActionKey key, String name, Instant renewBy) {}

    private final App.Design design;
    private final InstantSource clock;

    private TermsRoutes(App.Design design, InstantSource clock) {
        this.design = design;
        this.clock = clock;
    }

    static Stream<Route> of(App.Design design, InstantSource clock) {
        TermsRoutes r = new TermsRoutes(design, clock);
        return Stream.of(
                Route.list(
                        "/api/kept-actions",
                        Right.DESIGN,
                        "Actions you keep that are to be looked at again",
                        ToRenew.class,
                        r::toRenew),
                Route.get(
                        "/api/actions/{key}/terms",
                        Right.SEE,
                        "Who answers for an action, who may use it and where",
                        TermsView.class,
                        q -> r.view(q, design.workflows().termsOf(r.action(q).key()))),
                Route.put(
                        "/api/actions/{key}/terms",
                        Right.DESIGN,
                        "Say who answers for an action, who may use it and where",
                        TermsBody.class,
                        TermsView.class,
                        r::set),
                Route.post(
                        "/api/actions/{key}/terms/renewal",
                        Right.DESIGN,
                        "Say that who may use an action and where is right still",
                        null,
                        TermsView.class,
                        r::renew));
    }

    private Action action(Request q) {
        ActionKey key = q.path("key", ActionKey::new);
        return design.workflows().action(key).orElseThrow(() -> Problem.notFound("There is no action '" + key + "'.")
                .end());
    }

    private TermsView view(Request q, TermsOfUse terms) {
        return new TermsView(
                terms,
                terms.renewBy().orElse(null),
                Right.DESIGN.of(q.person()) && terms.letsChange(q.person(), design.organisation()::person),
                design.organisation().people().stream()
                        .filter(TermsOfUse::canKeep)
                        .map(Person::id)
                        .toList());
    }

    private List<ToRenew> toRenew(Request q) {
        Instant until = clock.instant().plus(ASKED_BEFORE);
        return design.workflows().terms().stream()
                .filter(t -> q.person().id().equals(t.keeper()))
                .flatMap(t -> t
                        .renewBy()
                        .filter(by -> by.isBefore(until))
                        .flatMap(by ->
                                design.workflows().action(t.action()).map(a -> new ToRenew(a.key(), a.name(), by)))
                        .stream())
                .toList();
    }

    private Object set(Request q) {
        Action action = action(q);
        TermsOfUse was = mayChange(q, action, design);
        TermsBody body = q.body(TermsBody.class);
        TermsOfUse terms;
        try {
            terms = new TermsOfUse(
                    action.key(),
                    body.keeper(),
                    body.groups(),
                    body.services(),
                    body.sites(),
                    body.tellAfter(),
                    body.renewMonths(),
                    body.renewMonths() == null ? null : clock.instant());
        } catch (IllegalArgumentException e) {
            throw Problem.invalid(null, e.getMessage()).end();
        }
        problem(terms).ifPresent(p -> {
            throw p.end();
        });
        return said(q, was, terms);
    }

    private Optional<Problem> problem(TermsOfUse terms) {
        Organisation there = design.organisation();
        PersonId keeper = terms.keeper();
        if (keeper != null && there.person(keeper).filter(TermsOfUse::canKeep).isEmpty()) {
            return Optional.of(Problem.invalid(
                    "keeper", "Whoever keeps an action must be here and may design workflows, so that they can act."));
        }
        if (keeper == null && (terms.tellAfter() != null || terms.renewMonths() != null)) {
            return Optional.of(
                    Problem.invalid("keeper", "Say who keeps it: nobody would be told, and nobody would look again."));
        }
        for (List<?> named : Stream.of(terms.groups(), terms.services(), terms.sites())
                .filter(l -> l != null)
                .toList()) {
            if (named.size() > MOST_NAMED) {
                return Optional.of(Problem.invalid(null, "At most " + MOST_NAMED + " of each are named."));
            }
        }
        return of(terms.groups())
                .filter(g -> there.group(g).isEmpty())
                .findFirst()
                .map(g -> Problem.invalid("groups", "There is no group '" + g + "'."))
                .or(() -> of(terms.services())
                        .filter(s -> there.service(s).isEmpty())
                        .findFirst()
                        .map(s -> Problem.invalid("services", "There is no service '" + s + "'.")))
                .or(() -> of(terms.sites())
                        .filter(s -> Texts.blank(s) || s.length() > LONGEST_SITE || !Texts.keepable(s))
                        .findFirst()
                        .map(s -> Problem.invalid("sites", "A site has 1 to " + LONGEST_SITE + " characters.")));
    }

    private static <T> Stream<T> of(@Nullable List<T> all) {
        return all == null ? Stream.empty() : all.stream();
    }

    private Object renew(Request q) {
        Action action = action(q);
        TermsOfUse terms = mayChange(q, action, design);
        if (terms.renewMonths() == null) {
            throw Problem.conflict("Nobody is asked to look at '" + action.name() + "' again.")
                    .end();
        }
        return said(q, terms, terms.renewed(clock.instant()));
    }

    private TermsView said(Request q, TermsOfUse was, TermsOfUse terms) {
        if (!design.setUp().terms(Answers.by(q, clock), was, terms)) {
            throw Problem.conflict(
                            "Somebody said otherwise meanwhile. Look at what is there, then make your change on it.")
                    .end();
        }
        return view(q, terms);
    }

    // --- where people use actions themselves

    /** Refuses a change of an action by somebody else than its keeper. @return by what that was judged */
    static TermsOfUse mayChange(Request q, Action action, App.Design design) {
        TermsOfUse terms = design.workflows().termsOf(action.key());
        if (!terms.letsChange(q.person(), design.organisation()::person)) {
            throw Problem.noRight("'" + action.name() + "' is kept by "
                            + Optional.ofNullable(terms.keeper())
                                    .flatMap(design.organisation()::person)
                                    .map(Person::name)
                                    .orElse("somebody else")
                            + ": ask them to change it, or an administrator.")
                    .end();
        }
        return terms;
    }

    static boolean mayUse(Person person, Action action, App.Design design) {
        return problemOf(person, action, design).isEmpty();
    }

    private static Optional<String> problemOf(Person person, Action action, App.Design design) {
        return design.workflows()
                .termsOf(action.key())
                .problemOf(action.name(), person.id(), design.organisation()::group, design.organisation()::person);
    }

    /** Refuses a use by somebody who is not of those that may. */
    static void mayUse(Request q, Action action, App.Design design) {
        problemOf(q.person(), action, design).ifPresent(why -> {
            throw Problem.noRight(why).end();
        });
    }

    /** Refuses a use on a ticket that is not of those on which it may be. */
    static void mayUseOn(Action action, App.Design design, @Nullable String service, @Nullable String ci) {
        design.workflows()
                .termsOf(action.key())
                .problemOn(
                        action.name(),
                        service,
                        ci == null ? Optional.empty() : design.organisation().ci(new CiId(ci)),
                        s -> design.organisation().service(s).map(Service::name))
                .ifPresent(why -> {
                    throw Problem.conflict(why).end();
                });
    }
}

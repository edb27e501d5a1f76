package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.partner.Partner;
import dastur.core.partner.PartnerKey;
import dastur.core.partner.Shared;
import dastur.core.partner.ThreeWay;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.server.App.Design;
import dastur.server.api.PartnerRoutes.PartnerBody;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import java.util.List;

/** Whether a partner can work as it is set up: its actions take and give what they must, and its words are values of our fields. */
final class PartnerSettings {
    private final Design design;

    PartnerSettings(Design design) {
        this.design = design;
    }

    /** @throws RuntimeException a problem that names the place, where it cannot work */
    Partner partner(PartnerKey key, PartnerBody body) {
        String name = Request.needed(body.name(), "name").strip();
        if (name.isEmpty() || name.length() > 200) {
            throw Problem.invalid("name", "A partner has a name of at most 200 characters.")
                    .end();
        }
        if (!Partner.isOften(Request.needed(body.every(), "every"))) {
            throw Problem.invalid(
                            "every", "A partner is looked at every 5 seconds at the most, and every hour at the least.")
                    .end();
        }
        String ciBy = body.ciBy() == null || body.ciBy().isBlank() ? null : body.ciBy();
        if (ciBy != null && design.organisation().fields().ciField(ciBy).isEmpty()) {
            throw Problem.invalid("ciBy", "CIs have no '" + Texts.clip(ciBy, 40) + "'.")
                    .end();
        }
        Partner partner;
        try {
            partner = new Partner(
                    key,
                    name,
                    Request.needed(body.on(), "on"),
                    body.every(),
                    Request.needed(body.list(), "list"),
                    body.raise(),
                    body.change(),
                    body.comment(),
                    body.read(),
                    Request.needed(body.places(), "places"),
                    ciBy,
                    Request.needed(body.shared(), "shared"),
                    Request.needed(body.told(), "told"));
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("shared", String.valueOf(e.getMessage())).end();
        }
        Action list = reading("list", partner.list());
        has("list", list, List.of(Partner.SINCE), List.of(Partner.TICKETS));
        if (partner.read() != null) {
            Action read = reading("read", partner.read());
            has("read", read, List.of(Partner.ID), List.of(Partner.TICKET));
            if (read.results().stream().noneMatch(r -> r.name().equals(Partner.GONE))) {
                throw Problem.invalid(
                                "read",
                                "'" + read.name() + "' has no result '" + Partner.GONE
                                        + "': nobody could tell that one is gone there.")
                        .end();
            }
        }
        if (partner.raise() != null) {
            action("raise", partner.raise());
        }
        if (partner.change() != null) {
            Action change = repeatable("change", partner.change());
            has("change", change, List.of(Partner.ID), List.of());
            for (Shared s : partner.shared()) {
                if (s.as() != null) {
                    has("change", change, List.of(s.as()), List.of());
                }
            }
        }
        if (partner.comment() != null) {
            Action comment = repeatable("comment", partner.comment());
            has("comment", comment, List.of(Partner.ID, Partner.TEXT), List.of());
        }
        checkFields(partner);
        checkLater(partner, list);
        return partner;
    }

    private void checkFields(Partner partner) {
        ThreeWay threeWay = new ThreeWay(design.organisation().fields());
        for (Shared s : partner.shared()) {
            if (design.organisation().fields().ticketField(s.ours()).isEmpty()) {
                throw Problem.invalid("shared", "Tickets have no field '" + Texts.clip(s.ours(), 40) + "'.")
                        .end();
            }
            for (Shared.Word w : s.words()) {
                if (threeWay.value(s.ours(), w.ours()).isEmpty()) {
                    throw Problem.invalid(
                                    "shared", "'" + Texts.clip(w.ours(), 40) + "' is no value of '" + s.ours() + "'.")
                            .end();
                }
            }
        }
    }

    /** Who was later can be told where they say when, and what time it is there. */
    private static void checkLater(Partner partner, Action list) {
        if (partner.shared().stream().noneMatch(s -> s.leads() == Shared.Leads.LATER)) {
            return;
        }
        if (partner.places().changed() == null) {
            throw Problem.invalid(
                            "shared",
                            "Who was later can only be told where their tickets say when they were changed: name that place, or"
                                    + " let another lead.")
                    .end();
        }
        has("list", list, List.of(), List.of(Partner.NOW));
    }

    private Action action(String where, ActionKey key) {
        return design.workflows().actions().stream()
                .filter(a -> a.key().equals(key))
                .findFirst()
                .orElseThrow(() -> Problem.invalid(where, "There is no action '" + key + "'.")
                        .end());
    }

    private Action reading(String where, ActionKey key) {
        Action action = action(where, key);
        if (action.changesWorld() || action.repeat() != Action.Repeat.FREE) {
            throw Problem.invalid(
                            where,
                            "'" + action.name() + "' does not only read: choose one that reads and changes nothing.")
                    .end();
        }
        return action;
    }

    /** What nobody watches may have to be sent again. */
    private Action repeatable(String where, ActionKey key) {
        Action action = action(where, key);
        if (action.repeat() == Action.Repeat.NEVER) {
            throw Problem.invalid(
                            where,
                            "'" + action.name()
                                    + "' is never repeated by itself, but what is sent to a partner may have to be:"
                                    + " let it be repeated freely, or under the same key.")
                    .end();
        }
        return action;
    }

    private static void has(String where, Action action, List<String> inputs, List<String> outputs) {
        for (String input : inputs) {
            if (action.inputs().stream().noneMatch(f -> f.name().equals(input))) {
                throw Problem.invalid(
                                where, "'" + action.name() + "' has no input '" + input + "', which is given to it.")
                        .end();
            }
        }
        for (String output : outputs) {
            if (action.output(output).isEmpty()) {
                throw Problem.invalid(
                                where, "'" + action.name() + "' has no output '" + output + "', which is read from it.")
                        .end();
            }
        }
    }
}

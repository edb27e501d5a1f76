package dastur.demo;

import static dastur.demo.DemoLibrary.action;
import static dastur.demo.DemoLibrary.needed;
import static dastur.demo.DemoLibrary.output;

import dastur.core.partner.Partner;
import dastur.core.partner.Partner.Told;
import dastur.core.partner.PartnerKey;
import dastur.core.partner.Places;
import dastur.core.partner.Shared;
import dastur.core.partner.Shared.Leads;
import dastur.core.partner.Shared.Word;
import dastur.core.signal.Sort;
import dastur.core.signal.Source;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.store.Workflows;
import java.util.List;
import java.util.Map;

/** The supplier of the lanes, whose ticket desk ours is joined to. */
final class DemoPartner {
    static final PartnerKey SUPPLIER = new PartnerKey("lane-supplier");

    private DemoPartner() {}

    /** Its words for everything are other than ours, so that nothing is understood by luck. */
    static Partner supplier() {
        return new Partner(
                SUPPLIER,
                "Lane supplier",
                true,
                Span.parse("5 s"),
                new ActionKey("partner.list"),
                new ActionKey("partner.raise"),
                new ActionKey("partner.change"),
                new ActionKey("partner.say"),
                new ActionKey("partner.read"),
                new Places(
                        "/no",
                        "/fault/head",
                        "/fault/body",
                        "/read_at",
                        "/your_no",
                        null,
                        "/touched_at",
                        "/words",
                        "/nr",
                        "/who",
                        "/said",
                        "/your_mark"),
                null,
                List.of(
                        new Shared(
                                "impact",
                                "/fault/grade",
                                "grade",
                                List.of(new Word("A", "1"), new Word("B", "2"), new Word("C", "3"), new Word("D", "4")),
                                Leads.PERSON),
                        new Shared(
                                "state",
                                "/stage",
                                "stage",
                                List.of(
                                        new Word("logged", "waiting"),
                                        new Word("looking", "waiting"),
                                        new Word("parts", "waiting"),
                                        new Word("right", "restored"),
                                        new Word("shut", "closed"),
                                        new Word("logged", "logged"),
                                        new Word("logged", "asked"),
                                        new Word("looking", "diagnosing"),
                                        new Word("looking", "in hand"),
                                        new Word("right", "done"),
                                        new Word("shut", "refused"),
                                        new Word("shut", "cancelled")),
                                Leads.THEM),
                        new Shared("answer", "/outcome", "outcome", List.of(), Leads.LATER)),
                List.of(new Told("wants", FieldType.TEXT, "/wants"), new Told("size", FieldType.TEXT, "/size")));
    }

    static Source source(FieldCatalogue fields) {
        return supplier().source(fields, Source.Otherwise.INCIDENT, "suppliers-liaison");
    }

    /** Two values of theirs say whether a person is asked at all. */
    static Trigger asksForMachine() {
        return new Trigger(
                new TriggerId("machine-for-the-supplier-asked"),
                true,
                new Trigger.SignalComes(TicketKind.REQUEST, SUPPLIER.source(), Sort.FAULT, null, null),
                List.of(),
                "signal.wants == 'machine' && signal.size == 'small'");
    }

    static void actions(Workflows workflows) {
        workflows.putAction(action(
                "partner.list",
                "List what the supplier has touched",
                "Reads from the supplier's desk, sheet by sheet, what was touched since a moment.",
                "partner",
                "GET",
                "/partner/faults?touched_after={{ input.since }}&sheet={{ input.sheet ?? '' }}",
                null,
                List.of(needed("since", "Since"), Field.of("sheet", "Sheet", FieldType.TEXT)),
                List.of(
                        new Action.Output(
                                Field.of("tickets", "Faults", FieldType.LIST).asRequired(), "/faults"),
                        new Action.Output(Field.of("next", "Next sheet", FieldType.TEXT), "/sheet_after"),
                        new Action.Output(Field.of("now", "Their time", FieldType.TEXT), "/our_time")),
                false));
        workflows.putAction(new Action(
                new ActionKey("partner.read"),
                "Read one fault at the supplier",
                "Reads one fault from the supplier's desk, or hears that there is none of this number any more.",
                "partner",
                new Action.HttpCall("GET", "/partner/faults/{{ input.id }}", Map.of(), null, null),
                List.of(needed("id", "Number")),
                List.of(new Action.Output(
                        Field.of("ticket", "Fault", FieldType.ANY).asRequired(), "/fault_sheet")),
                List.of(new Action.OwnResult(Partner.GONE, Action.OwnResult.STATUS, "404")),
                Action.Repeat.FREE,
                false,
                Span.parse("20 s"),
                2,
                Span.parse("5 s")));
        workflows.putAction(action(
                "partner.raise",
                "Raise a fault with the supplier",
                "Raises a fault at the supplier's desk; answers with its number and how serious they take it.",
                "partner",
                "POST",
                "/partner/faults",
                "{\"head\":\"{{ input.title }}\",\"body\":\"{{ input.text }}\",\"grade\":\"{{ input.grade }}\","
                        + "\"your_no\":\"{{ input.reference }}\"}",
                List.of(
                        needed("title", "Title"),
                        needed("text", "What is the matter"),
                        needed("grade", "How serious, A to D"),
                        needed("reference", "Our number")),
                List.of(
                        new Action.Output(
                                Field.of("number", "Number", FieldType.TEXT).asRequired(), "/no"),
                        output("grade", "Grade", FieldType.TEXT)),
                true));
        workflows.putAction(action(
                "partner.change",
                "Change a fault at the supplier",
                "Changes grade, stage or outcome of a fault at the supplier's desk; what is left out stays as it is.",
                "partner",
                "PATCH",
                "/partner/faults/{{ input.id }}",
                "{\"grade\":\"{{ input.grade ?? '' }}\",\"stage\":\"{{ input.stage ?? '' }}\","
                        + "\"outcome\":\"{{ input.outcome ?? '' }}\"}",
                List.of(
                        needed("id", "Number"),
                        Field.of("grade", "Grade", FieldType.TEXT),
                        Field.of("stage", "Stage", FieldType.TEXT),
                        Field.of("outcome", "Outcome", FieldType.LONG_TEXT)),
                List.of(),
                true));
        workflows.putAction(action(
                "partner.say",
                "Say something to the supplier",
                "Says something on a fault at the supplier's desk, with who says it.",
                "partner",
                "POST",
                "/partner/faults/{{ input.id }}/words",
                "{\"said\":\"{{ input.text }}\",\"who\":\"{{ input.by }}\",\"your_mark\":\"{{ input.reference }}\"}",
                List.of(
                        needed("id", "Number"),
                        Field.of("text", "What is said", FieldType.LONG_TEXT).asRequired(),
                        needed("by", "Who says it"),
                        needed("reference", "Our mark")),
                List.of(),
                true));
    }
}

package dastur.server.chat;

import dastur.core.people.PersonId;
import dastur.core.run.Command;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.core.step.approval.ApprovalCommands.AskBack;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.callin.AnswerCallIn;
import dastur.core.step.callin.OpenCallIn;
import org.jspecify.annotations.Nullable;

/** The choices that a decision or a call-in offers wherever it is asked, and the commands that answers become (N41). */
public final class Choices {
    private Choices() {}

    /** The choices in words; empty when nothing is asked of this person. @param yes and {@code no}: what to answer with */
    public static String offered(Visit visit, String purpose, PersonId person, String yes, String no) {
        return switch (visit.waiting()) {
            case Votes v
            when purpose.equals("decision") && v.turn().contains(person) ->
                "\n\n" + yes + "  Approve" + (v.setsOff() == null ? "" : " and " + v.setsOff()) + "\n" + no
                        + "  Decline\n?  Ask first\nAnswer with one of these; words may follow after a comma"
                        + (v.terms().mayAddConditions() ? ", such as “" + yes + ", gates 3 and 4 only”." : ".");
            case OpenCallIn in
            when purpose.equals("call-in") && in.asked().contains(person) ->
                "\n\n" + yes + "  I am coming\n" + no + "  I cannot\nAnswer with one of these.";
            default -> "";
        };
    }

    /** The same command as in the application, so that the same checks and the same entries follow. */
    public static Command command(
            VisitId visit, int round, String digest, @Nullable Waiting waiting, ChatAnswer answer) {
        if (waiting instanceof OpenCallIn) {
            return new AnswerCallIn(visit, answer instanceof ChatAnswer.Yes);
        }
        boolean conditions = waiting instanceof Votes v && v.terms().mayAddConditions();
        return switch (answer) {
            case ChatAnswer.Yes y ->
                new Vote(visit, round, digest, true, conditions ? null : y.rest(), conditions ? y.rest() : null);
            case ChatAnswer.No n -> new Vote(visit, round, digest, false, n.rest());
            case ChatAnswer.Question q -> new AskBack(visit, q.text());
        };
    }

    /** What is asked, as people know it: "Close the lane?" on I-1042. */
    public static String matter(VisitId visit, @Nullable Waiting waiting) {
        String name =
                switch (waiting) {
                    case Votes v -> v.name();
                    case OpenCallIn in -> in.name();
                    case null, default -> "what was asked";
                };
        return "“" + name + "” on " + visit.ticket();
    }

    /** What is said back when an answer was taken: it names the matter, so that a mistake is seen at once. */
    public static String noted(ChatAnswer answer, String matter) {
        return switch (answer) {
            case ChatAnswer.Yes y -> "Noted: yes to " + matter + ".";
            case ChatAnswer.No n -> "Noted: no to " + matter + ".";
            case ChatAnswer.Question q ->
                "Asked about " + matter + ". You hear when it is answered; the clocks stand still.";
        };
    }
}

package dastur.server.api;

import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Chats;
import dastur.store.Chats.Channel;
import dastur.store.Chats.Reach;
import java.time.DateTimeException;
import java.time.LocalTime;
import java.time.ZoneId;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** How I want to be reached: by mail or chat, and when not (N60). */
final class ReachRoutes {
    record ReachBody(
            @Nullable String chat,
            Channel urgent,
            Channel other,
            @Nullable LocalTime quietFrom,
            @Nullable LocalTime quietUntil,
            String zone,
            @Nullable LocalTime digestAt) {}

    private final Chats chats;

    private ReachRoutes(Chats chats) {
        this.chats = chats;
    }

    static Stream<Route> of(Chats chats) {
        ReachRoutes r = new ReachRoutes(chats);
        return Stream.of(
                Route.get(
                        "/api/me/reach",
                        Right.SIGNED_IN,
                        "How I am reached",
                        Reach.class,
                        q -> chats.reach(q.person().id())),
                Route.put("/api/me/reach", Right.SIGNED_IN, "Say how I am reached", ReachBody.class, null, r::put));
    }

    private Object put(Request q) {
        ReachBody body = q.body(ReachBody.class);
        String chat = body.chat() == null || body.chat().isBlank()
                ? null
                : body.chat().strip();
        if (chat != null && !chat.matches("@[a-z0-9._=/+-]{1,80}:[A-Za-z0-9.:-]{1,160}")) {
            throw Problem.invalid("chat", "A name on a chat server looks like @name:server.")
                    .end();
        }
        Channel urgent = Request.needed(body.urgent(), "urgent");
        Channel other = Request.needed(body.other(), "other");
        if (chat == null && (urgent == Channel.CHAT || other == Channel.CHAT)) {
            throw Problem.invalid("chat", "To be reached by chat, say under which name.")
                    .end();
        }
        PersonId me = q.person().id();
        if (chat != null) {
            Optional<PersonId> somebodyElse = chats.personCalled(chat).filter(p -> !p.equals(me));
            if (somebodyElse.isPresent()) {
                throw Problem.invalid("chat", "Somebody else is reached under this name.")
                        .end();
            }
        }
        if ((body.quietFrom() == null) != (body.quietUntil() == null)) {
            throw Problem.invalid("quietUntil", "Quiet hours have a beginning and an end.")
                    .end();
        }
        try {
            chats.putReach(
                    me,
                    new Reach(
                            chat,
                            urgent,
                            other,
                            body.quietFrom(),
                            body.quietUntil(),
                            ZoneId.of(Request.needed(body.zone(), "zone")),
                            body.digestAt()));
        } catch (DateTimeException e) {
            throw Problem.invalid("zone", "There is no such time zone.").end();
        }
        return null;
    }
}

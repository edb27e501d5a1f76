package dastur.standins;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.util.Base64;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.Map;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/** The harbour office wants to know what goes on at the piers: takes CloudEvents, if their signature is right, and shows the last of them. */
public final class HarbourOffice {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final int KEPT = 8;

    private final String secret;
    private final Faults faults;
    private final Map<String, String> heard = Collections.synchronizedMap(new LinkedHashMap<>());

    HarbourOffice(String token, Faults faults) {
        this.secret = BoardMonitor.secret("harbour office " + token);
        this.faults = faults;
    }

    /** The secret by which it knows who tells it. @param token what the stand-ins share */
    public static String secret(String token) {
        return BoardMonitor.secret("harbour office " + token);
    }

    void routes(JavalinConfig config) {
        config.routes.post("/harbour-office", this::take);
    }

    private void take(Context ctx) throws IOException {
        if (Guarded.faulty(ctx, faults.of("office"))) {
            return;
        }
        String body = ctx.body();
        String signed = ctx.header("webhook-id") + "." + ctx.header("webhook-timestamp") + "." + body;
        byte[] right = ("v1," + sign(signed)).getBytes(StandardCharsets.UTF_8);
        String given = String.valueOf(ctx.header("webhook-signature"));
        if (!MessageDigest.isEqual(right, given.getBytes(StandardCharsets.UTF_8))) {
            ctx.status(401);
            return;
        }
        JsonNode event = JSON.readTree(body);
        heard.put(
                event.path("id").asText(),
                event.path("type").asText() + " "
                        + event.at("/data/fields/title").asText());
        synchronized (heard) {
            while (heard.size() > KEPT) {
                heard.remove(heard.keySet().iterator().next());
            }
        }
        ctx.status(204);
    }

    private String sign(String text) {
        try {
            Mac mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(Base64.getDecoder().decode(secret.substring("whsec_".length())), "HmacSHA256"));
            return Base64.getEncoder().encodeToString(mac.doFinal(text.getBytes(StandardCharsets.UTF_8)));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java platform has HMAC", e);
        }
    }

    /** The last that it was told, by id. */
    public Map<String, String> heard() {
        synchronized (heard) {
            return new LinkedHashMap<>(heard);
        }
    }
}

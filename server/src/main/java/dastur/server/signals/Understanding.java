package dastur.server.signals;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.type.TypeReference;
import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.Vocabulary;
import dastur.core.json.Json;
import dastur.core.signal.Mapper;
import dastur.core.signal.Raw;
import dastur.core.signal.Reading;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.store.Organisation;
import java.time.Duration;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Reads what came by its source's mapping, with the CIs and services of this organisation. */
public final class Understanding {
    /** CIs are looked up anew after this: in a storm the same few are asked for again and again. */
    private static final Duration LOOKED_UP_FOR = Duration.ofSeconds(5);

    private record Asked(String by, String value) {}

    private record Words(FieldCatalogue fields, List<Field> own) {}

    private final Organisation organisation;
    private final Cache<Asked, Optional<ConfigurationItem>> found = Caffeine.newBuilder()
            .maximumSize(20_000)
            .expireAfterWrite(LOOKED_UP_FOR)
            .build();
    private final Cache<ServiceId, Map<String, Object>> services = Caffeine.newBuilder()
            .maximumSize(2_000)
            .expireAfterWrite(LOOKED_UP_FOR)
            .build();
    private final Cache<String, FieldCatalogue> fields =
            Caffeine.newBuilder().maximumSize(1).expireAfterWrite(LOOKED_UP_FOR).build();
    private final Cache<Words, Expressions> expressions =
            Caffeine.newBuilder().maximumSize(200).build();

    private final Mapper.Cis cis = new Mapper.Cis() {
        @Override
        public Optional<ConfigurationItem> find(String by, String value) {
            return found.get(new Asked(by, value), a -> lookUp(a.by(), a.value()));
        }

        @Override
        public Map<String, Object> service(ServiceId id) {
            return services.get(
                    id, i -> organisation.service(i).map(Understanding::words).orElse(Map.of()));
        }
    };

    public Understanding(Organisation organisation) {
        this.organisation = organisation;
    }

    /** Of more than one nobody can say which is meant. */
    private Optional<ConfigurationItem> lookUp(String by, String value) {
        List<ConfigurationItem> all = organisation.cisWith(by, value);
        return all.size() == 1 ? Optional.of(all.getFirst()) : Optional.empty();
    }

    private static Map<String, Object> words(Service s) {
        return Map.of("id", s.id().value(), "name", s.name(), "passengers", s.passengers());
    }

    /** @param headers as they were kept, JSON @param raw as it was kept, JSON */
    public Reading read(Source source, String id, Instant cameAt, String headers, String raw) {
        try {
            Map<String, String> kept = Json.read(headers, new TypeReference<Map<String, String>>() {});
            return Mapper.read(
                    source,
                    id,
                    cameAt,
                    new Raw(kept, Json.parse(raw)),
                    cis,
                    expressions(source.mapping().own()));
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("what was kept is not JSON", e);
        }
    }

    /** Over what signals may say, with these own values. */
    public Expressions expressions(List<Field> own) {
        FieldCatalogue now = fields.get("", k -> organisation.fields());
        return expressions.get(new Words(now, own), w -> new Expressions(Vocabulary.ofSignal(w.fields(), w.own())));
    }

    /** What conditions on a signal read. */
    public Scope scope(Signal signal, Instant now) {
        Map<String, Map<String, Object>> roots = new LinkedHashMap<>();
        roots.put("signal", signal.words());
        ci(signal.ci()).ifPresent(ci -> roots.put("ci", ci.values()));
        if (signal.service() != null) {
            roots.put("service", cis.service(signal.service()));
        }
        return Scope.of(roots, now);
    }

    private Optional<ConfigurationItem> ci(@org.jspecify.annotations.Nullable CiId id) {
        return id == null ? Optional.empty() : cis.find("id", id.value());
    }
}

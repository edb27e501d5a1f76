package dastur.standins;

import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.math.BigInteger;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.KeyStore;
import java.security.PrivateKey;
import java.security.cert.X509Certificate;
import java.security.spec.ECGenParameterSpec;
import java.time.Duration;
import java.time.Instant;
import java.util.Date;
import java.util.List;
import java.util.concurrent.atomic.AtomicLong;
import org.bouncycastle.asn1.ASN1ObjectIdentifier;
import org.bouncycastle.asn1.nist.NISTObjectIdentifiers;
import org.bouncycastle.asn1.x500.X500Name;
import org.bouncycastle.asn1.x509.AlgorithmIdentifier;
import org.bouncycastle.asn1.x509.ExtendedKeyUsage;
import org.bouncycastle.asn1.x509.Extension;
import org.bouncycastle.asn1.x509.KeyPurposeId;
import org.bouncycastle.cert.jcajce.JcaCertStore;
import org.bouncycastle.cert.jcajce.JcaX509CertificateConverter;
import org.bouncycastle.cert.jcajce.JcaX509v3CertificateBuilder;
import org.bouncycastle.cms.jcajce.JcaSimpleSignerInfoGeneratorBuilder;
import org.bouncycastle.operator.OperatorCreationException;
import org.bouncycastle.operator.jcajce.JcaContentSignerBuilder;
import org.bouncycastle.operator.jcajce.JcaDigestCalculatorProviderBuilder;
import org.bouncycastle.tsp.TSPAlgorithms;
import org.bouncycastle.tsp.TSPException;
import org.bouncycastle.tsp.TimeStampRequest;
import org.bouncycastle.tsp.TimeStampResponseGenerator;
import org.bouncycastle.tsp.TimeStampTokenGenerator;

/** The time office of the demo: says when it saw a hash (RFC 3161), with a key of its own. */
public final class TimeAuthority {
    private static final String NAME = "CN=Sound Time Office, O=Kestrel Sound";
    private static final String ALIAS = "time";
    /** The key lies on the demo's own machine, so a word of its own would hide nothing. */
    private static final char[] WORD = "demo".toCharArray();

    private static final Duration LASTS = Duration.ofDays(3_650);
    private static final ASN1ObjectIdentifier POLICY = new ASN1ObjectIdentifier("1.2.3.4.1");

    private final PrivateKey key;
    private final X509Certificate certificate;
    private final Faults faults;
    private final AtomicLong serial = new AtomicLong(System.currentTimeMillis());

    /** @param folder where its key is kept, so that stamps of before a restart hold */
    TimeAuthority(Path folder, Faults faults) {
        this.faults = faults;
        try {
            Path file = folder.resolve("time-office.p12");
            KeyStore store = KeyStore.getInstance("PKCS12");
            if (Files.exists(file)) {
                try (InputStream in = Files.newInputStream(file)) {
                    store.load(in, WORD);
                }
            } else {
                Files.createDirectories(folder);
                store.load(null, WORD);
                made(store);
                try (OutputStream out = Files.newOutputStream(file)) {
                    store.store(out, WORD);
                }
            }
            key = (PrivateKey) store.getKey(ALIAS, WORD);
            certificate = (X509Certificate) store.getCertificate(ALIAS);
        } catch (GeneralSecurityException | IOException | OperatorCreationException e) {
            throw new IllegalStateException("The time office could not be set up.", e);
        }
    }

    private static void made(KeyStore store) throws GeneralSecurityException, IOException, OperatorCreationException {
        KeyPairGenerator generator = KeyPairGenerator.getInstance("EC");
        generator.initialize(new ECGenParameterSpec("secp256r1"));
        KeyPair pair = generator.generateKeyPair();
        Instant now = Instant.now();
        X500Name name = new X500Name(NAME);
        JcaX509v3CertificateBuilder builder = new JcaX509v3CertificateBuilder(
                name,
                BigInteger.ONE,
                Date.from(now.minus(Duration.ofDays(1))),
                Date.from(now.plus(LASTS)),
                name,
                pair.getPublic());
        builder.addExtension(Extension.extendedKeyUsage, true, new ExtendedKeyUsage(KeyPurposeId.id_kp_timeStamping));
        X509Certificate made = new JcaX509CertificateConverter()
                .getCertificate(
                        builder.build(new JcaContentSignerBuilder(scheme(pair.getPrivate())).build(pair.getPrivate())));
        store.setKeyEntry(ALIAS, pair.getPrivate(), WORD, new X509Certificate[] {made});
    }

    /** A key of an earlier demo's folder may be RSA, which takes seconds to make and signs no better here. */
    private static String scheme(PrivateKey key) {
        return key.getAlgorithm().equals("RSA") ? "SHA256withRSA" : "SHA256withECDSA";
    }

    /** With what its stamps are compared. */
    public X509Certificate certificate() {
        return certificate;
    }

    void routes(JavalinConfig config) {
        config.routes.post("/time-stamps", this::stamp);
    }

    private void stamp(Context context) {
        if (Guarded.faulty(context, faults.of("time"))) {
            return;
        }
        try {
            TimeStampRequest question = new TimeStampRequest(context.bodyAsBytes());
            TimeStampTokenGenerator tokens = new TimeStampTokenGenerator(
                    new JcaSimpleSignerInfoGeneratorBuilder().build(scheme(key), key, certificate),
                    new JcaDigestCalculatorProviderBuilder()
                            .build()
                            .get(new AlgorithmIdentifier(NISTObjectIdentifiers.id_sha256)),
                    POLICY);
            tokens.addCertificates(new JcaCertStore(List.of(certificate)));
            byte[] answer = new TimeStampResponseGenerator(tokens, TSPAlgorithms.ALLOWED)
                    .generate(question, BigInteger.valueOf(serial.incrementAndGet()), new Date())
                    .getEncoded();
            context.contentType("application/timestamp-reply").result(answer);
        } catch (IOException | IllegalArgumentException e) {
            context.status(400).result("This is no time-stamp query.");
        } catch (TSPException | OperatorCreationException | GeneralSecurityException e) {
            context.status(500).result("No stamp could be made.");
        }
    }
}

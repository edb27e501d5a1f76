package dastur.connectors;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.math.BigInteger;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.security.cert.CertificateFactory;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.time.Instant;
import org.bouncycastle.cms.CMSException;
import org.bouncycastle.cms.jcajce.JcaSimpleSignerInfoVerifierBuilder;
import org.bouncycastle.operator.OperatorCreationException;
import org.bouncycastle.tsp.TSPAlgorithms;
import org.bouncycastle.tsp.TSPException;
import org.bouncycastle.tsp.TimeStampRequest;
import org.bouncycastle.tsp.TimeStampRequestGenerator;
import org.bouncycastle.tsp.TimeStampResponse;
import org.bouncycastle.tsp.TimeStampToken;

/**
 * Time stamps of an outside authority (RFC 3161) over HTTP: that a hash was there at a moment, said by somebody whose key we do
 * not have. Only the authority whose certificate was named beforehand is believed.
 */
public final class TimeStamps {
    private static final Duration LIMIT = Duration.ofSeconds(15);
    /** A token with the certificates of its authority has a few thousand bytes. */
    private static final int MOST = 24_000;

    /** A stamp that holds. @param at when the authority saw the hash, by its clock */
    public record Stamp(Instant at, String authority) {}

    /** A stamp could not be had, or does not hold. */
    public static final class NoStamp extends Exception {
        private static final long serialVersionUID = 1;

        NoStamp(String message) {
            super(message);
        }

        NoStamp(String message, Throwable cause) {
            super(message, cause);
        }
    }

    private final X509Certificate authority;
    private final SecureRandom random = new SecureRandom();

    /** @param authority the one certificate that is believed */
    public TimeStamps(X509Certificate authority) {
        this.authority = authority;
    }

    /** A certificate in PEM or DER. @throws IllegalArgumentException when it is none */
    public static X509Certificate certificate(byte[] bytes) {
        try {
            return (X509Certificate)
                    CertificateFactory.getInstance("X.509").generateCertificate(new ByteArrayInputStream(bytes));
        } catch (GeneralSecurityException e) {
            throw new IllegalArgumentException("This is no X.509 certificate.", e);
        }
    }

    /**
     * Asks for a stamp.
     *
     * @param sha256 of what is to be stamped
     * @return the token (CMS, DER), looked at already
     * @throws NoStamp when none was given in time, or it does not hold
     */
    public byte[] ask(HttpClient http, URI address, byte[] sha256) throws NoStamp {
        TimeStampRequestGenerator generator = new TimeStampRequestGenerator();
        generator.setCertReq(true);
        TimeStampRequest question = generator.generate(TSPAlgorithms.SHA256, sha256, new BigInteger(64, random));
        long end = System.nanoTime() + LIMIT.toNanos();
        try {
            HttpResponse<InputStream> answer = http.send(
                    HttpRequest.newBuilder(address)
                            .timeout(LIMIT)
                            .header("Content-Type", "application/timestamp-query")
                            .POST(HttpRequest.BodyPublishers.ofByteArray(question.getEncoded()))
                            .build(),
                    HttpResponse.BodyHandlers.ofInputStream());
            byte[] body = Bounded.bytes(answer, MOST, Duration.ofNanos(end - System.nanoTime()));
            if (answer.statusCode() != 200) {
                throw new NoStamp("The authority answered " + answer.statusCode() + ".");
            }
            TimeStampResponse response = new TimeStampResponse(body);
            response.validate(question);
            if (response.getTimeStampToken() == null) {
                throw new NoStamp("The authority gave no stamp: " + response.getStatusString() + ".");
            }
            byte[] token = response.getTimeStampToken().getEncoded();
            check(sha256, token);
            return token;
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new NoStamp("Asking was ended.", e);
        } catch (Bounded.TooLong | Bounded.TooSlow e) {
            throw new NoStamp(e.getMessage(), e);
        } catch (TSPException | IllegalArgumentException e) {
            throw new NoStamp("What the authority answered is no stamp of what was asked.", e);
        } catch (IOException e) {
            throw new NoStamp("The authority cannot be reached.", e);
        }
    }

    /**
     * Looks at a token.
     *
     * @param token CMS, in DER
     * @throws NoStamp when it is not of this hash, or not by the authority
     */
    public Stamp check(byte[] sha256, byte[] token) throws NoStamp {
        try {
            TimeStampToken stamp = new TimeStampToken(new org.bouncycastle.cms.CMSSignedData(token));
            if (!TSPAlgorithms.SHA256.equals(stamp.getTimeStampInfo().getMessageImprintAlgOID())
                    || !MessageDigest.isEqual(stamp.getTimeStampInfo().getMessageImprintDigest(), sha256)) {
                throw new NoStamp("it is a stamp of something else");
            }
            // Compares the certificate that the token names, its purpose and its time, then the signature.
            stamp.validate(new JcaSimpleSignerInfoVerifierBuilder().build(authority));
            return new Stamp(
                    stamp.getTimeStampInfo().getGenTime().toInstant(),
                    authority.getSubjectX500Principal().getName());
        } catch (TSPException | CMSException | OperatorCreationException e) {
            throw new NoStamp("it was not made by the authority that was named", e);
        } catch (IOException | IllegalArgumentException | ClassCastException e) {
            throw new NoStamp("it is no time stamp", e);
        }
    }
}

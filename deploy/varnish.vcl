# Varnish 7 in front of Hawthorn's readers: keeps what everybody reads, shows something older while the service is asked or away, and lets go of groups.
#
#   varnishd -f deploy/varnish.vcl -a :80 -s malloc,256m
#
# Hawthorn runs with HAWTHORN_SHARED_AGE=3600. Whoever hears of what changed (deploy/let_go.py, behind a webhook) sends PURGE with `Cache-Groups`, from this machine.
vcl 4.1;

import std;

backend hawthorn {
    .host = "127.0.0.1";
    .port = "8400";
    .probe = { .url = "/api/health"; .interval = 2s; .timeout = 1s; .window = 3; .threshold = 2; }
}

acl here {
    "127.0.0.1";
    "::1";
}

sub vcl_recv {
    if (req.method == "PURGE") {
        if (!client.ip ~ here) {
            return (synth(403, "Only from this machine"));
        }
        # One ban for each group; `all` is a group like any other. Names have letters, digits, _ and - alone.
        if (req.http.Cache-Groups !~ {"^"[A-Za-z0-9_-]+"(, ?"[A-Za-z0-9_-]+")*$"}) {
            return (synth(400, "Cache-Groups wants names in quotes"));
        }
        set req.http.X-Groups = regsuball(req.http.Cache-Groups, {""|, ?"}, "|");
        set req.http.X-Groups = regsuball(req.http.X-Groups, "\|+", "|");
        set req.http.X-Groups = regsuball(req.http.X-Groups, "^\||\|$", "");
        if (std.ban("obj.http.Surrogate-Key ~ (^|[[:space:]])(" + req.http.X-Groups + ")([[:space:]]|$)")) {
            return (synth(200, "Let go"));
        }
        return (synth(400, std.ban_error()));
    }
    if (req.method != "GET" && req.method != "HEAD") {
        return (pass);
    }
    if (req.url !~ "^/(read|feeds)/" || req.url ~ "^/read/changes" || req.http.Authorization || req.http.Hawthorn-Unlocked || req.url ~ "[?&]preview=") {
        return (pass);
    }
    unset req.http.Cookie;
    # While nobody answers, what is older is shown for as long as it may be (stale-if-error).
    if (!std.healthy(req.backend_hint)) {
        set req.grace = 24h;
    } else {
        set req.grace = 60s;
    }
    return (hash);
}

sub vcl_backend_response {
    if (beresp.http.Cache-Control ~ "private|no-store" || beresp.status >= 500) {
        set beresp.uncacheable = true;
        set beresp.ttl = 0s;
        return (deliver);
    }
    set beresp.grace = 24h;
}

sub vcl_deliver {
    set resp.http.X-Cache = "miss";
    if (obj.hits > 0) {
        set resp.http.X-Cache = "hit";
    }
    unset resp.http.Surrogate-Key;
    # Readers themselves ask each time.
    set resp.http.Cache-Control = regsub(resp.http.Cache-Control, "s-maxage=[0-9]+, ", "");
}

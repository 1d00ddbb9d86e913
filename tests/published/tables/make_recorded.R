# SPDX-License-Identifier: GPL-3.0-or-later
# Writes recorded.txt: figures of the recorded logs in tests/data/logs, by R's own functions and plain definitions of the
# three lows. Run in this folder: Rscript make_recorded.R
worst_mean <- function(x, p) { # Acerbi and Tasche (2002), the last frame by its fraction
  s <- sort(x, decreasing = TRUE); k <- length(x) * p; whole <- floor(k)
  1000 * k / (sum(head(s, whole)) + (k - whole) * s[whole + 1])
}
time_share <- function(x, p) {
  s <- sort(x, decreasing = TRUE)
  1000 / s[which(cumsum(s) >= p * sum(x))[1]]
}
lines <- c()
for (name in c("real-program-fast", "real-program-slow", "real-program-uneven")) {
  x <- read.csv(file.path("..", "..", "data", "logs", paste0(name, ".csv")))$frame_ms
  q <- quantile(x, c(.5, .95, .99, .999), type = 7, names = FALSE)
  figures <- c(length(x), sum(x), 1000 * length(x) / sum(x), mean(x), sd(x), q, max(x),
               1000 / quantile(x, c(.99, .999), type = 7, names = FALSE),
               worst_mean(x, .01), worst_mean(x, .001), time_share(x, .01), time_share(x, .001),
               acf(x, lag.max = 1, plot = FALSE)$acf[2], mean(abs(diff(x))))
  lines <- c(lines, paste(c(name, sprintf("%.15g", figures)), collapse = " "))
}
writeLines(c(paste("# log frames duration_ms average_fps mean_ms sd_ms median p95 p99 p999 worst percentile_1 percentile_01",
                   "worst_mean_1 worst_mean_01 time_share_1 time_share_01 r1 mean_absolute_step;", R.version.string), lines),
           "recorded.txt")

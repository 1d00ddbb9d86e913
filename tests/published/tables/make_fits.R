# SPDX-License-Identifier: GPL-3.0-or-later
# Writes longley.txt, the data of Longley (1967), JASA 62:819-841, as R holds them (longley), and greater.txt: mean and
# variance of the greater of two independent normal values and how likely the first is it, by quadrature of its density.
# Run in this folder: Rscript make_fits.R
with(longley, write(rbind(1000 * Employed, GNP.deflator, 1000 * GNP, 10 * Unemployed, 10 * Armed.Forces,
                          1000 * Population, Year), "longley.txt", ncolumns = 7))
lines <- c()
for (m in list(c(8, 1, 7, 2), c(10, .25, 10, .25), c(5, 4, 12, 1), c(16.7, .01, 16.6, .04), c(0, 1, 0, 9), c(3, .5, 1, 6))) {
  s <- sqrt(m[c(2, 4)])
  density <- function(x) dnorm(x, m[1], s[1]) * pnorm(x, m[3], s[2]) + dnorm(x, m[3], s[2]) * pnorm(x, m[1], s[1])
  low <- min(m[1] - 12 * s[1], m[3] - 12 * s[2]); high <- max(m[1] + 12 * s[1], m[3] + 12 * s[2])
  over <- function(f) integrate(f, low, high, rel.tol = 1e-12, subdivisions = 2000)$value
  mean <- over(function(x) x * density(x))
  variance <- over(function(x) (x - mean)^2 * density(x))
  first <- over(function(x) dnorm(x, m[1], s[1]) * pnorm(x, m[3], s[2]))
  lines <- c(lines, paste(c(m, sprintf("%.12f", c(mean, variance, first))), collapse = " "))
}
writeLines(lines, "greater.txt")

# Reference values for tests/unit: written by `Rscript tests/reference/quantiles.R > tests/reference/quantiles.json`
# quantile(type = 7) is R's default; datasets::morley is NIST StRD's "Michelson" set in km/s above 299000.
num <- function(x) paste0("[", paste(format(x, digits = 17, trim = TRUE, scientific = FALSE), collapse = ","), "]")
p <- c(0, 0.01, 0.05, 0.1, 0.25, 1/3, 0.5, 0.75, 0.9, 0.95, 0.99, 1)
sets <- list(
  michelson = 299 + morley$Speed / 1000,
  faithful = faithful$waiting,
  rivers = as.numeric(rivers),
  two = c(1.5, -2),
  ties = c(3, 3, 3, 1, 1, 2),
  negative = c(-10.5, -3.25, -700, 0, 4e-9)
)
cat("{\n  \"r\": \"", R.version.string, "\",\n  \"p\": ", num(p), ",\n  \"sets\": {\n", sep = "")
for (i in seq_along(sets)) {
  x <- sets[[i]]
  cat("    \"", names(sets)[i], "\": { \"values\": ", num(x), ",\n      \"quantiles\": ", num(quantile(x, p, type = 7, names = FALSE)),
      ",\n      \"mean\": ", format(mean(x), digits = 17), " }", if (i < length(sets)) "," else "", "\n", sep = "")
}
cat("  }\n}\n")

module hexachord/hearfit

go 1.26.0

require (
	gonum.org/v1/gonum v0.17.0
	gonum.org/v1/netlib v0.0.0-20190313105609-8cb42192e0e0
	hexachord v0.0.0
)

require golang.org/x/exp v0.0.0-20261113113407-e3970619a1a4 // indirect

replace hexachord => ../..

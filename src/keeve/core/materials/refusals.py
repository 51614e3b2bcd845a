"""What is said with a bound of a material broken: densities are copied in other units, or with the point elsewhere."""

from keeve.core.message.errors import HINTS
from keeve.core.message.said import Amount, Said, mark

HINTS["particle_density_kg_m3"] = Said(
    "For sand it is about {sand}, for cement {cement}. Check the point and the unit.",
    sand=Amount(2650.0, "kg/m³"),
    cement=Amount(3150.0, "kg/m³"),
)
HINTS["loose_bulk_kg_m3"] = Said(
    "For dry sand it is about {sand}, for cement {cement}. Check the point and the unit.",
    sand=Amount(1500.0, "kg/m³"),
    cement=Amount(1500.0, "kg/m³"),
)
HINTS["density_kg_l"] = mark("It is in kg/L, and most cans hold 1.0 to 1.3. Check the point.")

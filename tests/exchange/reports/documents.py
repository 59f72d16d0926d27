"""What common open tools print of one invented machine. Every document names the documentation of the form it follows."""

from __future__ import annotations

import json

GIB = 2**30

LSHW = json.dumps(
    {
        "id": "sk-0031",
        "class": "system",
        "children": [
            {
                "id": "core",
                "class": "bus",
                "children": [
                    {
                        "id": "memory",
                        "class": "memory",
                        "description": "System Memory",
                        "units": "bytes",
                        "size": 24 * GIB,
                        "children": [
                            {
                                "id": "bank:0",
                                "class": "memory",
                                "description": "SODIMM DDR4 Synchronous 2667 MHz (0.4 ns)",
                                "vendor": "Brindwell",
                                "serial": "B7A10233",
                                "slot": "DIMM A",
                                "units": "bytes",
                                "size": 16 * GIB,
                                "clock": 2667000000,
                            },
                            {"id": "bank:1", "class": "memory", "description": "SODIMM [empty]", "slot": "DIMM B"},
                            {"id": "cache:0", "class": "memory", "description": "L1 cache", "size": 262144},
                        ],
                    },
                    {
                        "id": "pci",
                        "class": "bridge",
                        "children": [
                            {
                                "id": "nvme",
                                "class": "storage",
                                "description": "NVMe device",
                                "businfo": "pci@0000:01:00.0",
                                "logicalname": "/dev/nvme0",
                                "serial": "TL88120031",
                                "children": [
                                    {"id": "hwmon", "class": "disk", "logicalname": "hwmon2"},
                                    {"id": "namespace:0", "class": "disk", "logicalname": "/dev/ng0n1"},
                                    {
                                        "id": "namespace:1",
                                        "class": "disk",
                                        "businfo": "nvme@0:1",
                                        "logicalname": "/dev/nvme0n1",
                                        "units": "bytes",
                                        "size": 512110190592,
                                        "children": [{"id": "volume:0", "class": "volume", "size": 536870912}],
                                    },
                                ],
                            },
                            {
                                "id": "usb",
                                "class": "storage",
                                "businfo": "usb@1:2",
                                "children": [
                                    {"id": "disk", "class": "disk", "logicalname": "/dev/sdb", "size": 64000000000, "serial": "STICK1"}
                                ],
                            },
                        ],
                    },
                ],
            },
            {"id": "battery", "class": "power", "units": "mWh", "capacity": 60100, "serial": "00123"},
        ],
    }
)
"""lshw(1), output of -json: "id", "class", "size" in "units", "children"."""

DMIDECODE = """# dmidecode 3.4
Handle 0x0038, DMI type 16, 23 bytes
Physical Memory Array
\tLocation: System Board Or Motherboard
\tMaximum Capacity: 64 GB
\tNumber Of Devices: 2

Handle 0x0039, DMI type 17, 40 bytes
Memory Device
\tArray Handle: 0x0038
\tTotal Width: 64 bits
\tSize: 16 GB
\tForm Factor: SODIMM
\tLocator: DIMM A
\tType: DDR4
\tType Detail: Synchronous
\tSpeed: 3200 MT/s
\tManufacturer: Brindwell
\tSerial Number: B7A10233
\tConfigured Memory Speed: 2667 MT/s

Handle 0x003A, DMI type 17, 40 bytes
Memory Device
\tSize: 8192 MB
\tLocator: DIMM B
\tType: DDR4
\tSpeed: 2667 MHz
\tSerial Number: Not Specified
\tConfigured Clock Speed: 2667 MHz

Handle 0x003B, DMI type 17, 40 bytes
Memory Device
\tSize: No Module Installed
\tLocator: DIMM C

Handle 0x0027, DMI type 22, 26 bytes
Portable Battery
\tLocation: Rear
\tDesign Capacity: 60100 mWh
\tDesign Voltage: 15200 mV
\tSerial Number: 00123
"""
"""dmidecode(8), types 17 and 22 of the System Management BIOS reference specification."""

SMARTCTL_NVME = json.dumps(
    {
        "json_format_version": [1, 0],
        "smartctl": {"version": [7, 3], "exit_status": 0},
        "device": {"name": "/dev/nvme0", "type": "nvme", "protocol": "NVMe"},
        "model_name": "Tangle TL-512",
        "serial_number": "TL88120031",
        "user_capacity": {"blocks": 1000215216, "bytes": 512110190592},
        "smart_status": {"passed": True, "nvme": {"value": 0}},
        "nvme_smart_health_information_log": {"percentage_used": 7, "available_spare": 100, "power_on_hours": 8123},
        "power_on_time": {"hours": 8123},
    }
)
"""smartctl(8), --json of an NVMe drive."""

SMARTCTL_ATA = json.dumps(
    {
        "json_format_version": [1, 0],
        "smartctl": {"version": [7, 2], "exit_status": 4},
        "device": {"name": "/dev/sda", "type": "sat", "protocol": "ATA"},
        "serial_number": "GL-7781",
        "user_capacity": {"blocks": 500118192, "bytes": 256060514304},
        "smart_status": {"passed": False},
        "power_on_time": {"hours": 20110},
        "ata_smart_attributes": {
            "revision": 1,
            "table": [
                {"id": 9, "name": "Power_On_Hours", "value": 99, "raw": {"value": 20110}},
                {"id": 177, "name": "Wear_Leveling_Count", "value": 41, "raw": {"value": 590}},
                {"id": 231, "name": "SSD_Life_Left", "value": 38, "raw": {"value": 38}},
            ],
        },
    }
)
"""smartctl(8), --json of a SATA drive: normalised values of attributes count down from 100."""

SMARTCTL_REFUSED = json.dumps(
    {
        "json_format_version": [1, 0],
        "smartctl": {"exit_status": 2, "messages": [{"string": "Permission denied", "severity": "error"}]},
        "device": {"name": "/dev/sda", "type": "scsi", "protocol": "SCSI"},
    }
)

NVME_LOG = json.dumps({"critical_warning": 0, "temperature": 311, "avail_spare": 100, "percent_used": 103, "power_on_hours": 8200})
"""nvme-smart-log(1), -o json: temperatures in kelvin, percent_used may pass 100."""

UPOWER = """Device: /org/freedesktop/UPower/devices/line_power_AC
  native-path:          AC
  power supply:         yes
  line-power
    online:              yes

Device: /org/freedesktop/UPower/devices/battery_BAT0
  native-path:          BAT0
  vendor:               Ostrel
  model:                OB-P14-60
  serial:               00123
  power supply:         yes
  battery
    present:             yes
    rechargeable:        yes
    state:               charging
    energy:              41,2 Wh
    energy-full:         51,25 Wh
    energy-full-design:  60,1 Wh
    charge-cycles:       212
    capacity:            85,2745%

Device: /org/freedesktop/UPower/devices/battery_hidpp_battery_0
  serial:               4f-11
  power supply:         no
  mouse
    energy-full:         1,5 Wh
    energy-full-design:  1,5 Wh

Device: /org/freedesktop/UPower/devices/DisplayDevice
  power supply:         yes
  battery
    state:               charging
    energy-full:         51,25 Wh
    energy-full-design:  60,1 Wh
"""
"""upower(1), --dump under a locale with decimal commas."""

LSBLK = json.dumps(
    {
        "blockdevices": [
            {"name": "sda", "maj:min": "8:0", "rm": True, "size": "57,3G", "type": "disk", "tran": "usb"},
            {"name": "zram0", "rm": False, "size": "8G", "type": "disk"},
            {"name": "sr0", "rm": True, "size": "1024M", "type": "rom"},
            {
                "name": "nvme0n1",
                "rm": False,
                "size": "476,9G",
                "type": "disk",
                "tran": "nvme",
                "children": [{"name": "nvme0n1p1", "size": "512M", "type": "part"}],
            },
        ]
    }
)
"""lsblk(8), --json: sizes in powers of 1024, as text unless -b is given."""

SENSORS = json.dumps(
    {
        "coretemp-isa-0000": {
            "Adapter": "ISA adapter",
            "Package id 0": {"temp1_input": 61.0, "temp1_max": 100.0},
            "Core 0": {"temp2_input": 63.0},
        },
        "ostrel-isa-0000": {"Adapter": "ISA adapter", "fan1": {"fan1_input": 2412.0}, "fan2": {"fan2_input": 0.0}},
        "nvme-pci-0100": {"Composite": {"temp1_input": 88.85}},
    }
)
"""sensors(1), -j: chips, features, subfeatures."""

BATTERY_XML = """<?xml version="1.0" encoding="utf-8"?>
<BatteryReport xmlns="urn:invented">
  <Batteries>
    <Battery>
      <Id>OB-P14-60</Id><Manufacturer>Ostrel</Manufacturer><SerialNumber>00123</SerialNumber>
      <DesignCapacity>60100</DesignCapacity><FullChargeCapacity>51250</FullChargeCapacity><CycleCount>212</CycleCount>
    </Battery>
  </Batteries>
</BatteryReport>"""
"""The battery report a desktop system writes as XML: capacities in mWh."""

BATTERY_HTML = """<!DOCTYPE html>
<html><body><h2>Installed batteries</h2>
<table><thead><tr><td> </td><td>BATTERY 1</td><td>BATTERY 2</td></tr></thead>
<tr><td><span class="label">NAME</span></td><td>OB-P14-60</td><td>OB-P14-2</td></tr>
<tr><td><span class="label">SERIAL NUMBER</span></td><td>00123</td><td>-</td></tr>
<tr><td><span class="label">DESIGN CAPACITY</span></td><td>60.100 mWh
</td><td>23,250&nbsp;mWh</td></tr>
<tr><td><span class="label">FULL CHARGE CAPACITY</span></td><td>51.250 mWh</td><td>0 mWh</td></tr>
<tr><td><span class="label">CYCLE COUNT</span></td><td>212</td><td>-</td></tr></table>
<h2>Battery capacity history</h2>
<table><tr><td>PERIOD</td><td>FULL CHARGE CAPACITY</td><td>DESIGN CAPACITY</td></tr>
<tr><td>2026-01</td><td>59.000 mWh</td><td>60.100 mWh</td></tr></table>
</body></html>"""
"""The same report as a page: labels stay English, thousands are grouped as the system's language does."""

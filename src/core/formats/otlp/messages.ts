import protobuf from "protobufjs";

/**
 * The part of OpenTelemetry's protocol definitions (opentelemetry-proto 1.x, metrics and its responses) that metrics
 * need. Field numbers are those of the published .proto files, from memory; held against the real SDK's exporters in
 * the tests.
 */
const DEFINITIONS = `
syntax = "proto3";
package otlp;
message AnyValue { oneof value { string string_value = 1; bool bool_value = 2; int64 int_value = 3; double double_value = 4;
  ArrayValue array_value = 5; KeyValueList kvlist_value = 6; bytes bytes_value = 7; } }
message ArrayValue { repeated AnyValue values = 1; }
message KeyValueList { repeated KeyValue values = 1; }
message KeyValue { string key = 1; AnyValue value = 2; }
message Resource { repeated KeyValue attributes = 1; }
message Scope { string name = 1; string version = 2; }
message ExportRequest { repeated ResourceMetrics resource_metrics = 1; }
message ResourceMetrics { Resource resource = 1; repeated ScopeMetrics scope_metrics = 2; }
message ScopeMetrics { Scope scope = 1; repeated Metric metrics = 2; }
message Metric { string name = 1; string description = 2; string unit = 3; Gauge gauge = 5; Sum sum = 7;
  Histogram histogram = 9; ExponentialHistogram exponential_histogram = 10; Summary summary = 11; }
message Gauge { repeated NumberDataPoint data_points = 1; }
message Sum { repeated NumberDataPoint data_points = 1; int32 aggregation_temporality = 2; bool is_monotonic = 3; }
message Histogram { repeated HistogramDataPoint data_points = 1; int32 aggregation_temporality = 2; }
message ExponentialHistogram { repeated ExponentialHistogramDataPoint data_points = 1; int32 aggregation_temporality = 2; }
message Summary { repeated SummaryDataPoint data_points = 1; }
message NumberDataPoint { fixed64 start_time_unix_nano = 2; fixed64 time_unix_nano = 3; double as_double = 4;
  sfixed64 as_int = 6; repeated KeyValue attributes = 7; uint32 flags = 8; }
message HistogramDataPoint { fixed64 start_time_unix_nano = 2; fixed64 time_unix_nano = 3; fixed64 count = 4; double sum = 5;
  repeated fixed64 bucket_counts = 6; repeated double explicit_bounds = 7; repeated KeyValue attributes = 9; uint32 flags = 10; }
message Buckets { sint32 offset = 1; repeated uint64 bucket_counts = 2; }
message ExponentialHistogramDataPoint { repeated KeyValue attributes = 1; fixed64 start_time_unix_nano = 2; fixed64 time_unix_nano = 3;
  fixed64 count = 4; double sum = 5; sint32 scale = 6; fixed64 zero_count = 7; Buckets positive = 8; Buckets negative = 9;
  uint32 flags = 10; double zero_threshold = 14; }
message ValueAtQuantile { double quantile = 1; double value = 2; }
message SummaryDataPoint { fixed64 start_time_unix_nano = 2; fixed64 time_unix_nano = 3; fixed64 count = 4; double sum = 5;
  repeated ValueAtQuantile quantile_values = 6; repeated KeyValue attributes = 7; uint32 flags = 8; }
message PartialSuccess { int64 rejected_data_points = 1; string error_message = 2; }
message ExportResponse { PartialSuccess partial_success = 1; }
message Status { int32 code = 1; string message = 2; }
`;

const root = protobuf.parse(DEFINITIONS, { keepCase: false }).root;
const exportRequest = root.lookupType("otlp.ExportRequest");
const exportResponse = root.lookupType("otlp.ExportResponse");
const status = root.lookupType("otlp.Status");

/** A request as plain data in the form of OTLP's JSON: camel case, 64-bit integers as text. @throws Error when cut or foreign */
export function decodeExportRequest(bytes: Uint8Array): unknown {
  return exportRequest.toObject(exportRequest.decode(bytes), { longs: String, arrays: true, oneofs: false });
}

/** For tests and stand-ins: the other direction. */
export function encodeExportRequest(json: object): Uint8Array {
  return exportRequest.encode(exportRequest.fromObject(json)).finish();
}

export function encodeExportResponse(rejected: number, message: string): Uint8Array {
  return exportResponse
    .encode(
      rejected > 0 || message
        ? { partialSuccess: { rejectedDataPoints: rejected, errorMessage: message } }
        : {},
    )
    .finish();
}

export function decodeExportResponse(bytes: Uint8Array): {
  partialSuccess?: { rejectedDataPoints?: string; errorMessage?: string };
} {
  return exportResponse.toObject(exportResponse.decode(bytes), { longs: String });
}

/** google.rpc.Status, as the specification wants errors to be told. */
export function encodeStatus(message: string): Uint8Array {
  return status.encode({ message }).finish();
}
